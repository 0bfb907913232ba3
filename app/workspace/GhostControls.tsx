import type { GhostPatch } from "../../core/bracket/ghostPatches";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { Button } from "../ui/Button";
import { NumberSlider } from "../ui/NumberSlider";
import type { Edit } from "./edit";
import { SettingControl } from "./SettingControl";

/**
 * What is drawn on the picture: round a part, over a part, along something level or vertical, from
 * where to where the view is turned or rolled, on a spot of dust, or where another light falls.
 */
export type Drawing =
  "outline" | "brush" | "level" | "vertical" | "straight" | "turn" | "roll" | "dust" | LightDrawing;
export type LightDrawing = `light ${"outline" | "brush" | "gradient"}`;
interface Props {
  recipe: Recipe;
  edit: Edit;
  frames: readonly { id: string; name: string }[];
  drawing: Drawing | undefined;
  onDraw: (d: Drawing | undefined) => void;
  brush: number;
  onBrush: (r: number) => void;
  from: number | undefined;
  onFrom: (i: number | undefined) => void;
}

/** Width of the brush that one paints with. @param radius  in shares of the picture's width */
export const BrushSize = ({
  radius,
  onChange,
}: {
  radius: number;
  onChange: (r: number) => void;
}) => (
  <NumberSlider
    label="Brush"
    hint="Its width."
    unit="px"
    min={0.004}
    max={0.15}
    step={0.002}
    reset={0.03}
    value={radius}
    shown={(v) => String(Math.round(v * 2000))}
    parse={(n) => n / 2000}
    onChange={onChange}
    onCommit={onChange}
  />
);

/** What is done about moving things: by itself, and the areas that the user gave to a frame. */
export function GhostControls({
  recipe: r,
  edit,
  frames,
  drawing,
  onDraw,
  brush,
  onBrush,
  from,
  onFrom,
}: Props) {
  const { patches } = r.ghosts;
  const with_ = (next: GhostPatch[]): Recipe => ({ ...r, ghosts: { patches: next } });
  const patch = (id: string, part: Partial<GhostPatch>): Recipe =>
    with_(patches.map((p) => (p.id === id ? { ...p, ...part } : p)));
  return (
    <>
      {r.kind === "focus" && (
        <label
          className="flex items-center gap-2 pb-1"
          title="What is drawn is given to this frame at once (T takes the frame that is sharpest under the pointer)"
        >
          <span className="w-[72px] text-quiet">From</span>
          <select
            aria-label="Retouch from"
            className="h-7 min-w-0 grow rounded border border-line bg-raised px-2"
            value={from ?? ""}
            onChange={(e) => onFrom(e.target.value === "" ? undefined : Number(e.target.value))}
          >
            <option value="">Ask each time</option>
            {frames.map((f, i) => (
              <option key={f.id} value={i}>
                {f.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <SettingControl setting="merge.deghost" recipe={r} edit={edit} />
      <SettingControl setting="merge.ghostStrength" recipe={r} edit={edit} onlyKept />
      <div className="mt-1 flex gap-1">
        <Button
          className="px-2"
          variant={drawing === "outline" ? "accent" : "raised"}
          aria-pressed={drawing === "outline"}
          onClick={() => onDraw(drawing === "outline" ? undefined : "outline")}
          hint="Outline an area, then choose its frame (G)"
        >
          Draw round
        </Button>
        <Button
          className="px-2"
          variant={drawing === "brush" ? "accent" : "raised"}
          aria-pressed={drawing === "brush"}
          onClick={() => onDraw(drawing === "brush" ? undefined : "brush")}
          hint="Paint over an area, then choose its frame (Shift G)"
        >
          Paint
        </Button>
      </div>
      {drawing === "brush" && <BrushSize radius={brush} onChange={onBrush} />}
      {patches.length > 0 && (
        <ul
          aria-label="Ghost patches"
          className="mt-2 flex flex-col gap-1 border-t border-line pt-2"
        >
          {patches.map((p, i) => (
            <li key={p.id}>
              <div className="flex items-center gap-2">
                <input
                  type="checkbox"
                  aria-label={`Patch ${i + 1} is on`}
                  className="size-4 accent-(--accent)"
                  checked={p.on}
                  onChange={(e) =>
                    edit.keep(
                      patch(p.id, { on: e.target.checked }),
                      `Ghost patch ${i + 1} ${e.target.checked ? "on" : "off"}`,
                    )
                  }
                />
                <select
                  aria-label={`Frame of patch ${i + 1}`}
                  className="h-6 min-w-0 grow rounded border border-line bg-panel px-1"
                  value={p.frame}
                  onChange={(e) =>
                    edit.keep(
                      patch(p.id, { frame: e.target.value }),
                      `Frame of ghost patch ${i + 1}`,
                    )
                  }
                >
                  {frames.map((f) => (
                    <option key={f.id} value={f.id}>
                      {f.name}
                    </option>
                  ))}
                </select>
                <Button
                  variant="plain"
                  className="h-6 px-2"
                  aria-label={`Delete patch ${i + 1}`}
                  onClick={() =>
                    edit.keep(
                      with_(patches.filter((q) => q.id !== p.id)),
                      `Delete ghost patch ${i + 1}`,
                    )
                  }
                >
                  Delete
                </Button>
              </div>
              <NumberSlider
                label="Soft"
                hint="Width of the border over which the frames are blended."
                unit="px"
                min={0}
                max={0.04}
                step={0.001}
                reset={0.006}
                value={p.soft}
                shown={(v) => String(Math.round(v * 2000))}
                parse={(n) => n / 2000}
                onChange={() => undefined}
                onCommit={(soft) =>
                  edit.keep(patch(p.id, { soft }), `Border of ghost patch ${i + 1}`)
                }
              />
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
