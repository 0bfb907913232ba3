import * as v from "valibot";
import { GhostPatchSchema, type ConfidenceGrid } from "../../core/bracket/ghostPatches";
import type { FrameInfo } from "../../core/frame/frame";
import { data, settingsOf } from "../settings/fields";
import { defineStep } from "../step";
import { downscaleTo, WORK_EDGE } from "../work";

const settings = settingsOf({
  patches: data({
    label: "Ghost patches",
    help: "Areas of the result that are given to one frame.",
    schema: v.pipe(v.array(GhostPatchSchema), v.maxLength(200)),
    default: [],
  }),
});

/** Areas that the user gives to one frame; the merge applies them over the confidences. */
export const ghostsStep = defineStep({
  settings,
  key: ({ ghosts }: { ghosts: v.InferOutput<typeof settings.schema> }) => ghosts,
  run: (info: FrameInfo): ConfidenceGrid => confidenceGrid(info),
});

/** The grid on which moving things are marked: half the size at which frames are aligned. */
export function confidenceGrid(info: FrameInfo): ConfidenceGrid {
  const downscale = downscaleTo(info, WORK_EDGE);
  const half = (n: number): number => Math.floor(Math.ceil(n / downscale) / 2);
  return { width: half(info.width), height: half(info.height), scale: downscale * 2 };
}
