import * as v from "valibot";
import { GhostPatchSchema, type ConfidenceGrid } from "../../core/bracket/ghostPatches";
import type { FrameInfo } from "../../core/frame/frame";
import { defineStep, nothingToPlan } from "../step";
import { downscaleTo, WORK_EDGE } from "../work";

const schema = v.object({ patches: v.pipe(v.array(GhostPatchSchema), v.maxLength(200)) });

/** Areas that the user gives to one frame; the merge applies them over the confidences. */
export const ghostsStep = defineStep({
  settings: { schema, defaults: { patches: [] } },
  plan: nothingToPlan,
  run: (info: FrameInfo): ConfidenceGrid => confidenceGrid(info),
  facts: ({ patches }: v.InferOutput<typeof schema>) => [
    {
      what: "Ghost patches",
      value: patches.filter((p) => p.on).length,
      unit: "" as const,
      digits: 0 as const,
    },
  ],
});

/** The grid on which moving things are marked: half the size at which frames are aligned. */
export function confidenceGrid(info: FrameInfo): ConfidenceGrid {
  const downscale = downscaleTo(info, WORK_EDGE);
  const half = (n: number): number => Math.floor(Math.ceil(n / downscale) / 2);
  return { width: half(info.width), height: half(info.height), scale: downscale * 2 };
}
