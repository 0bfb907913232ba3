import { pixelWidth } from "../../pixelWidth";
import { Checkbox } from "../../../ui/Checkbox";
import type { LocalWhite } from "../../../../core/colour/localWhite";
import { AS_SHOT } from "../../../../core/colour/whiteBalance";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { Button } from "../../../ui/Button";
import { NumberSlider } from "../../../ui/NumberSlider";
import { BrushSize } from "../../BrushSize";
import { useRecipe, useView, useWorkspace } from "../../state/workspace";
import type { ToolName } from "../../tools/tool";
import { ToolButton } from "../../ToolButton";

const WAYS: { tool: ToolName; text: string; hint: string }[] = [
  {
    tool: "light outline",
    text: "Outline",
    hint: "Outline an area with different light, such as a lit bathroom or a window: it gets its own white balance in every exposure",
  },
  { tool: "light brush", text: "Paint", hint: "Paint over an area with different light" },
  {
    tool: "light gradient",
    text: "Gradient",
    hint: "Drag from where the other light is strongest to where it ends",
  },
];
const NAMES = { outline: "Outline", brush: "Brush", gradient: "Gradient" };
/** Parts of the picture with a white of their own. */
export function LightParts() {
  const { edit, view } = useWorkspace();
  const recipe = useRecipe();
  const isPainting = useView((v) => v.tool === "light brush");
  const pickFor = useView((v) => v.pickFor);
  const { local } = recipe.prepare;
  const with_ = (next: LocalWhite[]): Recipe => ({
    ...recipe,
    prepare: { ...recipe.prepare, local: next },
  });
  const part = (id: string, more: Partial<LocalWhite>): Recipe =>
    with_(local.map((p) => (p.id === id ? { ...p, ...more } : p)));
  return (
    <>
      <h2 className="mt-2 border-t border-line pt-2 text-quiet">Local white balance</h2>
      <div className="mt-1 flex gap-1">
        {WAYS.map(({ tool, text, hint }) => (
          <ToolButton key={tool} tool={tool} text={text} hint={hint} label={`Light: ${text}`} />
        ))}
      </div>
      {isPainting && <BrushSize />}
      {local.length > 0 && (
        <ul aria-label="Local white balance" className="mt-1 flex flex-col gap-1">
          {local.map((p, i) => {
            const slide = (key: "temperature" | "tint" | "soft", label: string) => ({
              value: p[key],
              onChange: (v: number) => edit.show(part(p.id, { [key]: v })),
              onCommit: (v: number) =>
                edit.keep(part(p.id, { [key]: v }), `${label} of light ${i + 1}`),
            });
            const whole = { shown: (v: number) => String(Math.round(v)) };
            return (
              <li key={p.id} className="border-t border-line pt-1">
                <div className="flex items-center gap-2">
                  <Checkbox
                    name={`Light ${i + 1} is on`}
                    checked={p.on}
                    onChange={(on) =>
                      edit.keep(part(p.id, { on: on }), `Light ${i + 1} ${on ? "on" : "off"}`)
                    }
                  />
                  <span className="grow truncate">
                    {i + 1}. {NAMES[p.shape]}
                  </span>
                  <Button
                    variant={pickFor === p.id ? "accent" : "plain"}
                    className="h-6 px-2"
                    aria-pressed={pickFor === p.id}
                    aria-label={`Pick a neutral for light ${i + 1}`}
                    onClick={() =>
                      view.setState(
                        pickFor === p.id
                          ? { tool: undefined }
                          : { tool: "pick", pickFor: p.id, area: undefined },
                      )
                    }
                    hint="Click something grey or white in that light"
                  >
                    Pick
                  </Button>
                  <Button
                    variant="plain"
                    className="h-6 px-2"
                    aria-label={`Delete light ${i + 1}`}
                    onClick={() =>
                      edit.keep(with_(local.filter((q) => q.id !== p.id)), `Delete light ${i + 1}`)
                    }
                  >
                    Delete
                  </Button>
                </div>
                <NumberSlider
                  label="Temperature"
                  name={`Temperature of light ${i + 1}`}
                  hint="Colour of this part's light; higher is warmer."
                  unit="K"
                  min={2000}
                  max={15000}
                  step={50}
                  reset={AS_SHOT.temperature}
                  {...whole}
                  {...slide("temperature", "Temperature")}
                />
                <NumberSlider
                  label="Tint"
                  name={`Tint of light ${i + 1}`}
                  hint="Green to magenta."
                  unit=""
                  min={-100}
                  max={100}
                  step={1}
                  reset={0}
                  {...whole}
                  {...slide("tint", "Tint")}
                />
                {p.shape !== "gradient" && (
                  <NumberSlider
                    label="Soft"
                    name={`Border of light ${i + 1}`}
                    hint="Width of the border over which the light changes."
                    unit="px"
                    min={0}
                    max={0.1}
                    step={0.002}
                    reset={0.02}
                    {...pixelWidth}
                    {...slide("soft", "Border")}
                  />
                )}
              </li>
            );
          })}
        </ul>
      )}
    </>
  );
}
