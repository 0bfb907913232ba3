import type { LensFit } from "../../core/frame/measureLens";
import type { DustSpot } from "../../core/frame/preparation";
import { AS_SHOT } from "../../core/colour/whiteBalance";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { Button } from "../ui/Button";
import { NumberSlider } from "../ui/NumberSlider";
import { counted, signed } from "../ui/format";
import type { Frame } from "../store/records";
import type { Edit } from "./edit";
import type { SettingName } from "../../pipeline/settings/reference";
import { SettingControl, type SettingOptions } from "./SettingControl";
import { FrameExceptions } from "./FrameExceptions";
import type { Drawing } from "./GhostControls";
import { LensMeter } from "./LensMeter";
import { LightParts } from "./LightParts";

interface Props {
  recipe: Recipe;
  edit: Edit;
  /** half the diagonal of a frame, px */
  halfDiagonal: number;
  picking: boolean;
  onPicking: (on: boolean) => void;
  drawing: Drawing | undefined;
  onDraw: (d: Drawing | undefined) => void;
  brush: number;
  onBrush: (r: number) => void;
  grid: boolean;
  onGrid: (on: boolean) => void;
  /** the part whose neutral is being picked */
  pickFor: string | undefined;
  onPickFor: (id: string | undefined) => void;
  dust: DustFinder;
  /** whether new stacks of the shoot begin like this one */
  ofShoot: {
    on: boolean;
    toggle: () => void;
  };
  frames: readonly Frame[];
  /** the frame that is looked at, by its place */
  at: number | undefined;
  onFrame: (i: number) => void;
  measureLens: () => Promise<LensFit>;
  /** ids of the frames in one row of a panorama with the one at a place */
  rowOf: (i: number) => readonly string[];
}
/** Looking for dust: what was found and is not decided on yet, and over how many frames. */
export interface DustFinder {
  found: DustSpot[] | undefined;
  frames: number;
  busy: boolean;
  find(): void;
  heal(): void;
  dismiss(): void;
}

/** What is done to every frame before the merge: the light's colour, the lens, dust, noise. */
export function PrepareControls({
  recipe: r,
  edit,
  halfDiagonal,
  picking,
  onPicking,
  drawing,
  onDraw,
  brush,
  onBrush,
  grid,
  onGrid,
  pickFor,
  onPickFor,
  dust,
  ofShoot,
  frames,
  at,
  onFrame,
  measureLens,
  rowOf,
}: Props) {
  const p = r.prepare;
  const set = (setting: SettingName, more: SettingOptions = {}) => (
    <SettingControl setting={setting} recipe={r} edit={edit} {...more} />
  );
  // a fringe as wide as it is drawn at a corner
  const fringe: SettingOptions = { unit: "px", times: 1e-4 * halfDiagonal };
  return (
    <>
      {set("prepare.temperature")}
      {set("prepare.tint")}
      <Button
        className="mt-1"
        aria-pressed={picking}
        variant={picking ? "accent" : "raised"}
        onClick={() => onPicking(!picking)}
        hint="Click something grey or white in the room (P)"
      >
        {picking ? "Click on a grey" : "Pick a neutral"}
      </Button>
      <LightParts {...{ recipe: r, edit, drawing, onDraw, brush, onBrush, pickFor, onPickFor }} />
      {set("prepare.response")}
      <h3 className="mt-2 border-t border-line pt-2 text-quiet">Lens, of every frame</h3>
      {set("prepare.distortion")}
      {set("prepare.vignetting")}
      {set("prepare.fringeRed", fringe)}
      {set("prepare.fringeBlue", fringe)}
      <div className="flex flex-wrap items-center gap-x-1">
        <Button
          variant={grid ? "accent" : "raised"}
          className="mt-1 px-2"
          aria-pressed={grid}
          onClick={() => onGrid(!grid)}
          hint="Straight lines over the picture to judge it by (#)"
        >
          Grid
        </Button>
        <LensMeter {...{ recipe: r, edit, halfDiagonal }} measure={measureLens} />
      </div>
      <h3 className="mt-2 border-t border-line pt-2 text-quiet">Noise and dust, of every frame</h3>
      {set("prepare.noise")}
      {r.kind !== "panorama" && (
        <div className="mt-1 flex items-center gap-1">
          <Button
            className="px-2"
            variant={drawing === "dust" ? "accent" : "raised"}
            aria-pressed={drawing === "dust"}
            onClick={() => onDraw(drawing === "dust" ? undefined : "dust")}
            hint="Click a spot to heal it in every frame; click it again to undo"
          >
            Mark dust
          </Button>
          <Button
            className="px-2"
            disabled={dust.busy}
            onClick={dust.find}
            hint="Finds shadows that lie in the same place in all of the day's scenes"
          >
            {dust.busy ? "Looking…" : "Find dust"}
          </Button>
        </div>
      )}
      {r.kind !== "panorama" && p.dust.length > 0 && (
        <div className="mt-1 flex items-center gap-1 text-[12px]">
          <span className="grow text-quiet">{counted(p.dust.length, "spot")} healed</span>
          <Button
            variant="plain"
            className="h-6 px-2"
            onClick={() =>
              edit.keep(
                { ...r, prepare: { ...p, dust: p.dust.slice(0, -1) } },
                "Take back a dust spot",
              )
            }
            hint="Removes the last one; click a spot while marking to remove that one"
          >
            Take back
          </Button>
        </div>
      )}
      {dust.found && (
        <div
          aria-live="polite"
          aria-label="Dust found"
          className="mt-1 flex items-center gap-1 text-[12px]"
        >
          <span className="grow text-quiet">
            {dust.found.length
              ? `${dust.found.length} likely, over ${dust.frames} frames`
              : `None found over ${dust.frames} frames`}
          </span>
          {dust.found.length > 0 && (
            <Button className="h-6 px-2" onClick={dust.heal}>
              Heal
            </Button>
          )}
          <Button variant="plain" className="h-6 px-2" onClick={dust.dismiss}>
            Dismiss
          </Button>
        </div>
      )}
      {frames.length > 1 && (
        <FrameExceptions {...{ recipe: r, edit, frames, at, onFrame, rowOf }} />
      )}
      <label
        className="mt-2 flex items-center gap-2 border-t border-line pt-2"
        title="Stacks that are found from now on begin with these settings; on the board they can be applied to those that are there (C, Shift C)"
      >
        <input
          type="checkbox"
          className="size-4 accent-(--accent)"
          checked={ofShoot.on}
          onChange={ofShoot.toggle}
        />
        For new stacks of this shoot
      </label>
      {drawing === "dust" && (
        <NumberSlider
          label="Spot"
          hint="Its width."
          unit="px"
          min={0.004}
          max={0.04}
          step={0.001}
          reset={0.01}
          value={brush}
          shown={(v) => String(Math.round(v * 2000))}
          parse={(n) => n / 2000}
          onChange={onBrush}
          onCommit={onBrush}
        />
      )}
    </>
  );
}

/** The frame's preparation in words. */
export function prepareSentence({ prepare: p }: Recipe): string {
  const white =
    p.temperature === AS_SHOT.temperature && p.tint === 0
      ? "White balance as shot"
      : `White at ${p.temperature} K, tint ${signed(p.tint, 0) || 0}`;
  const lights = p.local.filter((q) => q.on).length;
  const more = [
    lights ? `local white balance in ${counted(lights, "area")}` : "",
    p.distortion || p.vignetting || p.fringeRed || p.fringeBlue ? "lens corrected" : "",
    p.noise ? `noise ${Math.round(p.noise * 100)} %` : "",
    p.dust.length ? counted(p.dust.length, "dust spot") : "",
    p.exceptions.length ? `${counted(p.exceptions.length, "frame")} otherwise` : "",
  ].filter(Boolean);
  return [white, ...more].join(", ");
}
