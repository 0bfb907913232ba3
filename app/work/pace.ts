import * as v from "valibot";
import { OUTPUT_FORMATS } from "../../codecs/outputFormats";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { clamp } from "../../core/math/clamp";
import { median } from "../../core/math/median";

/** What a delivery has to do, as far as its time goes. */
export interface Task {
  kind: Recipe["kind"];
  method: Recipe["merge"]["method"];
  format: Recipe["deliver"]["format"];
  frames: number;
  /** px of all frames */
  framePx: number;
  /** whether they are corrected as they are read */
  prepared: boolean;
  outPx: number;
}

/** So many of the last deliveries tell how fast the machine is. */
const REMEMBERED = 5;
/** Times that were taken over those that were foretold, the last few of each kind. */
const PaceSchema = v.record(
  v.string(),
  v.pipe(v.array(v.pipe(v.number(), v.minValue(0.01), v.maxValue(100))), v.maxLength(REMEMBERED)),
);
export type Pace = v.InferOutput<typeof PaceSchema>;

/**
 * ms a frame, which is aligned at one size whatever its own, and a megapixel of it; on two cores of
 * a server of 2024.
 */
const MERGING: Record<Recipe["kind"], readonly [perFrame: number, perMp: number]> = {
  bracket: [300, 45],
  panorama: [450, 60],
  focus: [400, 80],
};
const PREPARING_PER_MP = 125;
const keyOf = ({ kind, method }: Task): string => `${kind}/${method}`;
const modelled = ({ kind, format, frames, framePx, prepared, outPx }: Task): number =>
  frames * MERGING[kind][0] +
  (framePx / 1e6) * (MERGING[kind][1] + (prepared ? PREPARING_PER_MP : 0)) +
  (outPx / 1e6) * OUTPUT_FORMATS[format].msPerMegapixel;

/**
 * How long a delivery will take, ms, by how long like ones took on this machine; before the first,
 * by any others.
 */
export const expectedMs = (task: Task, pace: Pace): number =>
  modelled(task) * (median(pace[keyOf(task)] ?? []) || median(Object.values(pace).flat()) || 1);

/** The pace with what a delivery took, ms. */
export function withTaken(pace: Pace, task: Task, tookMs: number): Pace {
  const by = clamp(tookMs / modelled(task), 0.01, 100);
  return { ...pace, [keyOf(task)]: [...(pace[keyOf(task)] ?? []), by].slice(-REMEMBERED) };
}

const KEY = "pace";

/** What is kept on this machine; nothing where it cannot be read. */
export function readPace(): Pace {
  try {
    const kept = v.safeParse(PaceSchema, JSON.parse(localStorage.getItem(KEY) ?? "{}"));
    return kept.success ? kept.output : {};
  } catch {
    return {};
  }
}

/** Keeps what a delivery took; a full or closed storage keeps nothing. */
export function keepTaken(task: Task, tookMs: number): void {
  try {
    localStorage.setItem(KEY, JSON.stringify(withTaken(readPace(), task, tookMs)));
  } catch {
    /* a guess is not worth a file */
  }
}
