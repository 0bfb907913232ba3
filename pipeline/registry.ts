import { alignStep } from "./align/step";
import { deliverStep } from "./deliver/step";
import { finishStep } from "./finish/step";
import { framesStep } from "./frames/step";
import { ghostsStep } from "./ghosts/step";
import { mergeStep } from "./merge/step";
import { edgesStep } from "./edges/step";
import { panoramaStep } from "./panorama/step";
import { prepareStep } from "./prepare/step";
import { retouchStep } from "./retouch/step";
import { toneStep } from "./tone/step";

/**
 * Every step by its name, in the order of the stem. A new one is a folder of its own and a line
 * here.
 */
export const STEPS = {
  frames: framesStep,
  prepare: prepareStep,
  align: alignStep,
  merge: mergeStep,
  ghosts: ghostsStep,
  panorama: panoramaStep,
  retouch: retouchStep,
  tone: toneStep,
  finish: finishStep,
  edges: edgesStep,
  deliver: deliverStep,
} as const;
export type StepName = keyof typeof STEPS;
export const STEP_NAMES = Object.keys(STEPS) as StepName[];
