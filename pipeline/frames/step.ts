import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { defineStep } from "../step";
import type { StackFrame } from "../work";

/** Which of the stack's frames take part. */
export const framesStep = defineStep({
  settings: { schema: v.object({ leftOut: v.array(v.string()) }), defaults: { leftOut: [] } },
  key: ({ frames }: { frames: { leftOut: string[] } }) => frames,
  /** The frames that take part. @throws RhizomeError `no-frames` */
  run(all: readonly StackFrame[], { leftOut }: { leftOut: string[] }): StackFrame[] {
    const used = all.filter((f) => !leftOut.includes(f.id));
    if (!used.length)
      throw new RhizomeError(
        "no-frames",
        "Every frame of this stack is left out.",
        "take at least one frame in again",
      );
    return used;
  },
});
