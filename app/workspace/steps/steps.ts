import type { StepName } from "../../../pipeline/registry";
import { alignScreen } from "./align/screen";
import { deliverScreen } from "./deliver/screen";
import { edgesScreen } from "./edges/screen";
import { finishScreen } from "./finish/screen";
import { framesScreen } from "./frames/screen";
import { ghostsScreen } from "./ghosts/screen";
import { mergeScreen } from "./merge/screen";
import { panoramaScreen } from "./panorama/screen";
import { prepareScreen } from "./prepare/screen";
import type { StepScreen } from "./step";
import { retouchScreen } from "./retouch/screen";
import { toneScreen } from "./tone/screen";

/** Every step's sentence and controls: a new one is its folder and a line here. */
export const STEP_SCREENS: Readonly<Record<StepName, StepScreen>> = {
  frames: framesScreen,
  prepare: prepareScreen,
  align: alignScreen,
  merge: mergeScreen,
  ghosts: ghostsScreen,
  panorama: panoramaScreen,
  retouch: retouchScreen,
  tone: toneScreen,
  finish: finishScreen,
  edges: edgesScreen,
  deliver: deliverScreen,
};
