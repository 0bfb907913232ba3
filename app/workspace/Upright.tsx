import type { Recipe } from "../../pipeline/recipe/recipe";
import { extentOf } from "../../core/panorama/canvas/projection";
import type { Layout } from "../../pipeline/panorama/layout";
import { Button } from "../ui/Button";
import { plainNumber } from "../ui/format";
import { NumberSlider } from "../ui/NumberSlider";
import type { Edit } from "./edit";
import { SettingControl } from "./SettingControl";
import { BrushSize, type Drawing } from "./GhostControls";

interface Props {
  recipe: Recipe;
  edit: Edit;
  names: ReadonlyMap<string, string>;
  /** ids of the other frames that look as high as this one */
  besides: (frame: string) => readonly string[];
  layout: Layout | undefined;
  drawing: Drawing | undefined;
  onDraw: (d: Drawing | undefined) => void;
  brush: number;
  onBrush: (r: number) => void;
}
/** Copies a mask to all frames of its row. */
const ROW = "row";
const KINDS = { level: "Level", vertical: "Vertical", straight: "Straight" } as const;
const SIDES = [
  ["Left", "How far the picture reaches to the left of the middle of the view.", 180],
  ["Right", "How far it reaches to the right.", 180],
  ["Up", "How far it reaches above the middle.", 90],
  ["Down", "How far it reaches below the middle.", 90],
] as const;

/**
 * Sets a panorama upright, by lines drawn along what is level or vertical and by degrees, and hides
 * parts of frames.
 */
export function Upright({
  recipe: r,
  edit,
  names,
  besides,
  layout,
  drawing,
  onDraw,
  brush,
  onBrush,
}: Props) {
  const set = (part: Partial<Recipe["panorama"]>): Recipe => ({
    ...r,
    panorama: { ...r.panorama, ...part },
  });
  const { guides, masks } = r.panorama;
  const extent =
    r.panorama.extent !== "auto" ? r.panorama.extent : layout && extentOf(layout.canvas);
  /** How straight the edge along a line is, once the lens was bent by it. */
  const straightness = (i: number): string => {
    const off =
      guides[i]!.kind === "straight"
        ? layout?.straight?.[guides.slice(0, i).filter((g) => g.kind === "straight").length]
        : undefined;
    if (off === undefined) return "";
    if (off === null) return ": no edge";
    return `, ${plainNumber(off, 2)} px`;
  };
  /** Those of some frames that do not hide the same part yet. */
  const open = (m: (typeof masks)[number], of: readonly string[]): readonly string[] =>
    of.filter(
      (id) =>
        !masks.some(
          (o) =>
            (o.frame === id || o.frame === names.get(id)) &&
            JSON.stringify(o.points) === JSON.stringify(m.points),
        ),
    );
  const copy = (m: (typeof masks)[number], i: number, to: string): void => {
    if (to)
      edit.keep(
        set({
          masks: [
            ...masks,
            ...open(m, to === ROW ? besides(m.frame) : [to]).map((frame) => ({
              ...m,
              id: crypto.randomUUID(),
              frame,
            })),
          ].slice(0, 500),
        }),
        to === ROW ? `Mask ${i + 1} in the whole row` : `Mask ${i + 1} in ${names.get(to)}`,
      );
  };
  return (
    <>
      <div className="mt-1 flex flex-wrap gap-1">
        <Button
          className="px-2"
          variant={drawing === "level" ? "accent" : "raised"}
          aria-pressed={drawing === "level"}
          onClick={() => onDraw(drawing === "level" ? undefined : "level")}
          hint="Draw along something level: the horizon, a shore, a sill (L)"
        >
          Level line
        </Button>
        <Button
          className="px-2"
          variant={drawing === "vertical" ? "accent" : "raised"}
          aria-pressed={drawing === "vertical"}
          onClick={() => onDraw(drawing === "vertical" ? undefined : "vertical")}
          hint="Draw along something vertical: a wall's edge, a mast (Shift L)"
        >
          Vertical line
        </Button>
        <Button
          className="px-2"
          variant={drawing === "straight" ? "accent" : "raised"}
          aria-pressed={drawing === "straight"}
          onClick={() => onDraw(drawing === "straight" ? undefined : "straight")}
          hint="Draw along an edge that is straight in reality: the lens's distortion is corrected until it is (K)"
        >
          Straight line
        </Button>
      </div>
      {guides.length > 0 && (
        <ul aria-label="Guides" className="mt-1">
          {guides.map((g, i) => (
            <li key={i} className="flex h-7 items-center gap-2">
              <span className="grow text-quiet">
                {KINDS[g.kind]} line {i + 1}
                {straightness(i)}
              </span>
              <Button
                variant="plain"
                className="h-6 px-2"
                aria-label={`Delete guide ${i + 1}`}
                onClick={() =>
                  edit.keep(
                    set({ guides: guides.filter((_, k) => k !== i) }),
                    `Delete guide ${i + 1}`,
                  )
                }
              >
                Delete
              </Button>
            </li>
          ))}
        </ul>
      )}
      <div className="mt-1 flex gap-1">
        <Button
          className="px-2"
          variant={drawing === "turn" ? "accent" : "raised"}
          aria-pressed={drawing === "turn"}
          onClick={() => onDraw(drawing === "turn" ? undefined : "turn")}
          hint="Drag the picture or a border to move it (O)"
        >
          Drag
        </Button>
        <Button
          className="px-2"
          variant={drawing === "roll" ? "accent" : "raised"}
          aria-pressed={drawing === "roll"}
          onClick={() => onDraw(drawing === "roll" ? undefined : "roll")}
          hint="Drag around the middle of the view to roll (Shift O)"
        >
          Roll by drag
        </Button>
      </div>
      {(["panorama.yaw", "panorama.pitch", "panorama.roll"] as const).map((setting) => (
        <SettingControl key={setting} setting={setting} recipe={r} edit={edit} />
      ))}
      {extent &&
        SIDES.map(([label, hint, most], k) => {
          const to = (n: number): Recipe =>
            set({
              extent: extent.map((v, i) => (i === k ? Math.round(n * 10) / 10 : v)) as [
                number,
                number,
                number,
                number,
              ],
            });
          return (
            <NumberSlider
              key={label}
              label={label}
              hint={hint}
              unit="°"
              min={0.5}
              max={most}
              step={0.5}
              reset={extent[k]!}
              value={extent[k]!}
              shown={(v) => v.toFixed(1)}
              onChange={(n) => edit.show(to(n))}
              onCommit={(n) => edit.keep(to(n), `Border ${label.toLowerCase()}`)}
            />
          );
        })}
      {r.panorama.extent !== "auto" && (
        <div className="text-right">
          <Button
            variant="plain"
            className="px-1"
            onClick={() => edit.keep(set({ extent: "auto" }), "All that is covered")}
            hint="Resets the borders to where the frames end"
          >
            All that is covered
          </Button>
        </div>
      )}
      <Button
        className="mt-1 px-2"
        variant={drawing === "outline" ? "accent" : "raised"}
        aria-pressed={drawing === "outline"}
        onClick={() => onDraw(drawing === "outline" ? undefined : "outline")}
        hint="Outline an area, then choose its frame (G)"
      >
        Draw round
      </Button>
      <Button
        className="ml-1 mt-1 px-2"
        variant={drawing === "brush" ? "accent" : "raised"}
        aria-pressed={drawing === "brush"}
        onClick={() => onDraw(drawing === "brush" ? undefined : "brush")}
        hint="Paint over an area, then choose its frame (Shift G)"
      >
        Paint
      </Button>
      {drawing === "brush" && <BrushSize radius={brush} onChange={onBrush} />}
      {masks.length > 0 && (
        <label className="mt-1 flex h-7 items-center gap-2 text-quiet">
          <input
            type="checkbox"
            className="size-4 accent-(--accent)"
            checked={r.panorama.maskedTies === "drop"}
            onChange={(e) =>
              edit.keep(
                set({ maskedTies: e.target.checked ? "drop" : "keep" }),
                e.target.checked ? "No ties in hidden parts" : "Ties in hidden parts",
              )
            }
          />
          Hidden parts tie no frames
        </label>
      )}
      {masks.length > 0 && (
        <ul aria-label="Masks" className="mt-1">
          {masks.map((m, i) => (
            <li key={m.id} className="flex h-7 items-center gap-2">
              <input
                type="checkbox"
                aria-label={`Mask ${i + 1} is on`}
                className="size-4 accent-(--accent)"
                checked={m.on}
                onChange={(e) =>
                  edit.keep(
                    set({
                      masks: masks.map((o) => (o === m ? { ...m, on: e.target.checked } : o)),
                    }),
                    `Mask ${i + 1} ${e.target.checked ? "on" : "off"}`,
                  )
                }
              />
              <span className="min-w-0 grow truncate text-[12px] text-quiet">
                In {(names.get(m.frame) ?? m.frame).replace(/\.[^.]+$/, "")}
              </span>
              <select
                aria-label={`Copy mask ${i + 1} to`}
                title="Hides the same part of another frame, or of all that look as high: a tripod, a hood, dirt on the lens"
                className="h-6 w-[74px] rounded border border-line bg-panel px-1 text-[12px]"
                value=""
                onChange={(e) => copy(m, i, e.target.value)}
              >
                <option value="">Copy to</option>
                {open(m, besides(m.frame)).length > 0 && <option value={ROW}>The whole row</option>}
                {open(m, [...names.keys()]).map((id) => (
                  <option key={id} value={id}>
                    {names.get(id)}
                  </option>
                ))}
              </select>
              <Button
                variant="plain"
                className="h-6 px-1!"
                aria-label={`Delete mask ${i + 1}`}
                onClick={() =>
                  edit.keep(set({ masks: masks.filter((o) => o !== m) }), `Delete mask ${i + 1}`)
                }
              >
                Delete
              </Button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
