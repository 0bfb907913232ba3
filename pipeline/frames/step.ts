import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { data, settingsOf } from "../settings/fields";
import { defineStep } from "../step";
import type { StackFrame } from "../work";

/** Which of the stack's frames take part. */
export const framesStep = defineStep({
  settings: settingsOf({
    leftOut: data({
      label: "Left out",
      help: "Ids of the frames that take no part.",
      schema: v.array(v.string()),
      default: [],
    }),
  }),
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
