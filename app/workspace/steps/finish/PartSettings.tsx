import { useState } from "react";
import type { KeptPart, KeptShape } from "../../../../pipeline/finish/partSchema";
import { Button } from "../../../ui/Button";
import { Checkbox } from "../../../ui/Checkbox";
import { Chevron } from "../../../ui/Chevron";
import { Choice } from "../../../ui/Choice";
import { NumberSlider } from "../../../ui/NumberSlider";
import { counted } from "../../../ui/format";
import { shapeName, withPart } from "../../actions/parts";
import { pixelWidth } from "../../pixelWidth";
import { useRecipe, useView, useWorkspace } from "../../state/workspace";
import { ShapeSettings } from "./ShapeSettings";

const MASKS = [
  { value: "none", text: "Off" },
  { value: "veil", text: "Veil" },
  { value: "grey", text: "Grey" },
  { value: "outline", text: "Line" },
] as const;

/** How a part acts as a whole, how its mask is seen, and the shapes that it is made of. */
export function PartSettings({ part }: { part: KeptPart }) {
  const { edit, view } = useWorkspace();
  const recipe = useRecipe();
  const mask = useView((v) => v.mask);
  const [isOpen, setOpen] = useState(false);
  const changed = (more: Partial<KeptPart>) => withPart(recipe, part.id, more);
  const withShape = (at: number, shape: KeptShape | undefined) =>
    changed({
      shapes: part.shapes.flatMap((own, i) => {
        if (i !== at) return [own];
        return shape ? [shape] : [];
      }),
    });
  return (
    <>
      <Choice
        label="Mask"
        hint="How the area is shown over the picture (J)."
        value={mask ?? "none"}
        options={MASKS}
        onChange={(to) => view.setState({ mask: to === "none" ? undefined : to })}
      />
      <NumberSlider
        label="Amount"
        name={`Amount of ${part.name}`}
        hint="How much of all its adjustments."
        unit="%"
        min={0}
        max={1}
        step={0.01}
        reset={1}
        shown={(v) => String(Math.round(v * 100))}
        parse={(n) => n / 100}
        value={part.amount}
        onChange={(amount) => edit.show(changed({ amount }))}
        onCommit={(amount) => edit.keep(changed({ amount }), `Amount of ${part.name}`)}
      />
      <NumberSlider
        label="Feather"
        name={`Feather of ${part.name}`}
        hint="Width of its soft border."
        unit="px"
        min={0}
        max={0.2}
        step={0.002}
        reset={0}
        {...pixelWidth}
        value={part.feather}
        onChange={(feather) => edit.show(changed({ feather }))}
        onCommit={(feather) => edit.keep(changed({ feather }), `Feather of ${part.name}`)}
      />
      <label className="flex h-7 items-center gap-2 pl-2.5 text-quiet">
        <Checkbox
          checked={part.inverted}
          onChange={(inverted) => edit.keep(changed({ inverted }), `Invert ${part.name}`)}
        />
        Inverted
      </label>
      <button
        type="button"
        aria-expanded={isOpen}
        className="flex h-7 w-full items-center gap-2 pl-2.5 text-quiet hover:text-ink"
        onClick={() => setOpen(!isOpen)}
      >
        <span className="grow text-left">{counted(part.shapes.length, "shape")}</span>
        <Chevron />
      </button>
      {isOpen && (
        <ul aria-label={`Shapes of ${part.name}`} className="mb-1">
          {part.shapes.map((shape, i) => (
            <li key={i} className="border-t border-line py-1">
              <div className="flex items-center gap-2 pl-2.5">
                <span className="grow truncate">{shapeName(shape.type)}</span>
                <Button
                  variant="plain"
                  className="h-6 px-2"
                  aria-label={`Remove shape ${i + 1} of ${part.name}`}
                  disabled={part.shapes.length === 1}
                  onClick={() =>
                    edit.keep(withShape(i, undefined), `Remove a shape of ${part.name}`)
                  }
                >
                  Remove
                </Button>
              </div>
              <ShapeSettings
                shape={shape}
                number={i + 1}
                onShow={(next) => edit.show(withShape(i, next))}
                onKeep={(next) => edit.keep(withShape(i, next), `Shape of ${part.name}`)}
              />
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
