import * as v from "valibot";
import { GhostPatchSchema, type VoteGrid } from "../../bracket/ghostPatches";
import type { FrameInfo } from "../../frame/frame";
import { defineStep, nothingToPlan } from "../step";
import { shrinkTo, WORK_EDGE } from "../work";

const schema = v.object({ patches: v.pipe(v.array(GhostPatchSchema), v.maxLength(200)) });

/** Areas that the user gives to one frame; the merge lays them over the votes. */
export const ghostsStep = defineStep({
  settings: { schema, defaults: { patches: [] } },
  plan: nothingToPlan,
  run: (info: FrameInfo): VoteGrid => voteGrid(info),
  evidence: ({ patches }: v.InferOutput<typeof schema>) => [
    {
      what: "Ghost patches",
      value: patches.filter((p) => p.on).length,
      unit: "" as const,
      digits: 0 as const,
    },
  ],
});

/** The grid on which moving things are marked: half the size at which frames are aligned. */
export function voteGrid(info: FrameInfo): VoteGrid {
  const shrink = shrinkTo(info, WORK_EDGE);
  const half = (n: number): number => Math.floor(Math.ceil(n / shrink) / 2);
  return { width: half(info.width), height: half(info.height), scale: shrink * 2 };
}
