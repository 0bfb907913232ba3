import type { StepName } from "../../../pipeline/registry";

/** What steps are called where no stack is at hand. */
export const STEP_TITLES: Readonly<Record<StepName, string>> = {
  frames: "Frames",
  prepare: "Prepare",
  align: "Align",
  merge: "Merge",
  ghosts: "Ghosts",
  panorama: "Panorama",
  retouch: "Repair",
  tone: "Tone",
  finish: "Finish",
  edges: "Edges",
  deliver: "Deliver",
};
