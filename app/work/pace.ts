import { OUTPUT_FORMATS } from "../../codecs/outputFormats";
import type { Recipe, Section } from "../../pipeline/recipe/recipe";
import { keepRatios, readRatios, usualRatio, withRatio, type Ratios } from "./ratios";

/** What a delivery has to do, as far as its time goes. */
export interface Task {
  kind: Recipe["kind"];
  method: Section<"merge">["method"];
  format: Recipe["deliver"]["format"];
  frames: number;
  /** px of all frames */
  framePx: number;
  /** whether they are corrected as they are read */
  prepared: boolean;
  outPx: number;
}

/** What deliveries took over what was foretold. */
export type Pace = Ratios;

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

/** How long a delivery will take, ms, by how long like ones took on this machine. */
export const expectedMs = (task: Task, pace: Pace): number =>
  modelled(task) * usualRatio(pace, keyOf(task));

/** The pace with what a delivery took, ms. */
export const withTaken = (pace: Pace, task: Task, tookMs: number): Pace =>
  withRatio(pace, keyOf(task), tookMs / modelled(task));

const NAME = "pace";

export const readPace = (): Pace => readRatios(NAME);

/** Keeps what a delivery took. */
export const keepTaken = (task: Task, tookMs: number): void =>
  keepRatios(NAME, withTaken(readPace(), task, tookMs));
