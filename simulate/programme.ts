import * as v from "valibot";
import { fewerFrames, type Coverage } from "../core/bracket/fewerFrames";
import { range } from "../core/math/range";
import type { SceneStatistics } from "../core/tone/sceneStatistics";

/** What the stand-in camera is set to: the lens, and a programme for each kind of stack. */
export const CameraSettingsSchema = v.object({
  scene: v.string(),
  focal: range(10, 200),
  iso: range(100, 6400),
  hand: v.boolean(),
  moving: v.picklist(["nothing", "a walking figure", "rolling leaves", "drifting cloud"]),
  /** frames of a bracket and EV from one to the next; of a sweep 1 frame a place, or a bracket */
  frames: v.pipe(range(1, 9), v.integer()),
  step: range(0.3, 4),
  rows: v.pipe(range(1, 3), v.integer()),
  overlap: range(0.1, 0.7),
  turned: v.picklist(["portrait", "landscape"]),
  /** of a focus run, as steps of the lens from the nearest focus on */
  near: range(0, 200),
  far: range(0, 200),
  gap: range(1, 8),
});
export type CameraSettings = v.InferOutput<typeof CameraSettingsSchema>;

/** Size of the stand-in's frames, px, held level. */
export const FRAME = { width: 1440, height: 960 };
/**
 * Electrons at saturation and ISO 100; read noise, as a share of saturation before and electrons
 * after the ISO's gain.
 */
const FULL_WELL = 24000;
const READ_SHARE = 6e-4;
const READ_ELECTRONS = 4;
/** Electrons at saturation, and read noise in shares of it, of the simulated sensor at an ISO. */
export const noiseAt = (iso: number): { gain: number; read: number } => {
  const gain = (FULL_WELL * 100) / iso;
  return { gain, read: Math.hypot(READ_SHARE, READ_ELECTRONS / gain) };
};

/**
 * One frame that will be taken: EV against the metered exposure, where the camera looks (degrees
 * right and up), and the lens's step.
 */
export interface PlannedShot {
  ev: number;
  yaw: number;
  pitch: number;
  focus: number;
}

/**
 * EVs of a bracket round the metered exposure, as cameras take them: the metered one first, then
 * darker and brighter by turns.
 */
export function bracketEvs({ frames, step }: Pick<CameraSettings, "frames" | "step">): number[] {
  const low = -Math.floor((frames - 1) / 2);
  return Array.from({ length: frames }, (_, i) => (low + i) * step).sort(
    (a, b) => Math.abs(a) - Math.abs(b) || a - b,
  );
}

/** The shots of one bracket, in the order in which they are taken. */
export const planBracket = (s: Pick<CameraSettings, "frames" | "step">): PlannedShot[] =>
  bracketEvs(s).map((ev) => ({ ev, yaw: 0, pitch: 0, focus: 0 }));

/**
 * Degrees that a scene reaches, round the place that the camera looks at when it looks straight
 * ahead.
 */
export interface Reach {
  across: number;
  down: number;
  right: number;
  up: number;
}
export interface Sweep {
  shots: PlannedShot[];
  columns: number;
  rows: number;
  /** degrees and MP of the panorama */
  across: number;
  down: number;
  megapixels: number;
  /** rows that the scene has no room for */
  lost: number;
}
const DEGREES = 180 / Math.PI;

/**
 * A sweep over as much of a scene as the frames fit into, row by row, left to right and back again;
 * a bracket at each place if there is more than one frame.
 */
export function planSweep(
  { focal, turned, overlap, rows: asked, frames, step }: CameraSettings,
  reach: Reach,
): Sweep {
  const [w, h] = turned === "portrait" ? [FRAME.height, FRAME.width] : [FRAME.width, FRAME.height];
  const focalPx = (focal / 36) * FRAME.width;
  const view = (px: number): number => 2 * Math.atan(px / 2 / focalPx) * DEGREES;
  const [wide, high] = [view(w), view(h)];
  const fit = (room: number, one: number): number =>
    Math.max(1, 1 + Math.floor(Math.max(0, room - one) / (one * (1 - overlap)) + 1e-9));
  const columns = fit(reach.across, wide);
  const rows = Math.min(asked, fit(reach.down, high));
  const evs = bracketEvs({ frames, step });
  const places = Array.from({ length: rows * columns }, (_, k) => {
    const row = Math.floor(k / columns);
    const i = k % columns;
    const column = row % 2 ? columns - 1 - i : i;
    return {
      yaw: reach.right + (column - (columns - 1) / 2) * wide * (1 - overlap),
      pitch: reach.up + ((rows - 1) / 2 - row) * high * (1 - overlap),
      focus: 0,
    };
  });
  const across = wide * (1 + (columns - 1) * (1 - overlap));
  const down = high * (1 + (rows - 1) * (1 - overlap));
  return {
    shots: places.flatMap((p) => evs.map((ev) => ({ ...p, ev }))),
    columns,
    rows,
    across,
    down,
    megapixels: ((across / DEGREES) * focalPx * (down / DEGREES) * focalPx) / 1e6,
    lost: asked - rows,
  };
}

export interface FocusRun {
  shots: PlannedShot[];
  /** mm from the lens */
  from: number;
  to: number;
  /**
   * share of a step's sharp zone that the next one's covers too; below zero something between stays
   * soft
   */
  overlap: number;
}

/**
 * How many positions a lens has, between which distances (mm), and over how many of them things
 * look sharp.
 */
export interface LensTravel {
  positions: number;
  near: number;
  far: number;
  sharpSteps: number;
}

/** A run through focus. */
export function planRun(
  { near, far, gap }: Pick<CameraSettings, "near" | "far" | "gap">,
  lens: LensTravel,
): FocusRun {
  const last = lens.positions - 1;
  const a = Math.min(last, Math.round(Math.min(near, far)));
  const b = Math.min(last, Math.round(Math.max(near, far)));
  const stops: number[] = [];
  const distance = (i: number): number => 1 / ((1 - i / last) / lens.near + i / last / lens.far);
  for (let i = a; i < b + 1e-9; i += Math.max(1, Math.round(gap))) stops.push(i);
  return {
    shots: stops.map((focus) => ({ ev: 0, yaw: 0, pitch: 0, focus })),
    from: distance(stops[0]!),
    to: distance(stops.at(-1)!),
    overlap: 1 - Math.max(1, Math.round(gap)) / lens.sharpSteps,
  };
}

/**
 * What a bracket of a scene will hold: range from noise to saturation, noise of the shadows, and
 * what stays clipped.
 */
export function expectBracket(
  scene: SceneStatistics,
  s: Pick<CameraSettings, "frames" | "step" | "iso">,
): Coverage {
  return fewerFrames(scene, bracketEvs(s), noiseAt(s.iso))!.all;
}
