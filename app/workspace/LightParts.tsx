import type { LocalWhite } from "../../core/colour/localWhite";
import { AS_SHOT } from "../../core/colour/whiteBalance";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { Button } from "../ui/Button";
import { NumberSlider } from "../ui/NumberSlider";
import type { Edit } from "./edit";
import type { Drawing, LightDrawing } from "./GhostControls";

const WAYS: { way: LightDrawing; text: string; hint: string }[] = [
  {
    way: "light outline",
    text: "Outline",
    hint: "Outline an area with different light, such as a lit bathroom or a window: it gets its own white balance in every exposure",
  },
  { way: "light brush", text: "Paint", hint: "Paint over an area with different light" },
  {
    way: "light gradient",
    text: "Gradient",
    hint: "Drag from where the other light is strongest to where it ends",
  },
];
const NAMES = { outline: "Outline", brush: "Brush", gradient: "Gradient" };
interface Props {
  recipe: Recipe;
  edit: Edit;
  drawing: Drawing | undefined;
  onDraw: (d: Drawing | undefined) => void;
  brush: number;
  onBrush: (r: number) => void;
  /** the part whose neutral is being picked */
  pickFor: string | undefined;
  onPickFor: (id: string | undefined) => void;
}

/** Parts of the picture with a white of their own. */
export function LightParts({
  recipe: r,
  edit,
  drawing,
  onDraw,
  brush,
  onBrush,
  pickFor,
  onPickFor,
}: Props) {
  const { local } = r.prepare;
  const with_ = (next: LocalWhite[]): Recipe => ({ ...r, prepare: { ...r.prepare, local: next } });
  const part = (id: string, more: Partial<LocalWhite>): Recipe =>
    with_(local.map((p) => (p.id === id ? { ...p, ...more } : p)));
  return (
    <>
      <h3 className="mt-2 border-t border-line pt-2 text-quiet">Local white balance</h3>
      <div className="mt-1 flex gap-1">
        {WAYS.map(({ way, text, hint }) => (
          <Button
            key={way}
            className="px-2"
            variant={drawing === way ? "accent" : "raised"}
            aria-pressed={drawing === way}
            aria-label={`Light: ${text}`}
            onClick={() => onDraw(drawing === way ? undefined : way)}
            hint={hint}
          >
            {text}
          </Button>
        ))}
      </div>
      {drawing === "light brush" && (
        <NumberSlider
          label="Brush"
          hint="Its width."
          unit="px"
          min={0.004}
          max={0.15}
          step={0.002}
          reset={0.03}
          value={brush}
          shown={(v) => String(Math.round(v * 2000))}
          parse={(n) => n / 2000}
          onChange={onBrush}
          onCommit={onBrush}
        />
      )}
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
                  <input
                    type="checkbox"
                    aria-label={`Light ${i + 1} is on`}
                    className="size-4 accent-(--accent)"
                    checked={p.on}
                    onChange={(e) =>
                      edit.keep(
                        part(p.id, { on: e.target.checked }),
                        `Light ${i + 1} ${e.target.checked ? "on" : "off"}`,
                      )
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
                    onClick={() => onPickFor(pickFor === p.id ? undefined : p.id)}
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
                    shown={(v) => String(Math.round(v * 2000))}
                    parse={(n) => n / 2000}
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
