import * as v from "valibot";
import { AS_TAKEN, preparationEntries, preparationOf } from "../../frame/preparation";
import { exposureEv } from "../../frame/frame";
import type { ResponseCurve } from "../../bracket/estimateResponse";
import { localGains, LocalWhiteSchema } from "../../colour/localWhite";
import { AS_SHOT, whiteBalanceGains } from "../../colour/whiteBalance";
import type { RenderSettings } from "../../tone/renderStrip";
import { range } from "../range";
import { defineStep, nothingToPlan } from "../step";
import type { HeldSamples, StackFrame, Watch, Work } from "../work";

const schema = v.object({
  temperature: range(1700, 25000), tint: range(-150, 150), /** parts that lie in another light, the first drawn first */ local: v.pipe(v.array(LocalWhiteSchema), v.maxLength(60)), ...preparationEntries,
  /** whether a file's profile is believed, or held against the exposure times first */
  response: v.picklist(["auto", "profile"]),
});

/**
 * White balance in scene-linear light, of the whole and of parts: a factor a channel, which commutes with the merge and is laid
 * over its result, where all exposures lie in registration. What is
 * done to each frame before the merge goes with the frames.
 */
export const prepareStep = defineStep({
  settings: { schema, defaults: { ...AS_SHOT, local: [], ...AS_TAKEN, response: "auto" } },
  plan: nothingToPlan,
  run: (settings: v.InferOutput<typeof schema>): Pick<RenderSettings, "gains" | "local"> => ({ gains: whiteBalanceGains(settings), ...(settings.local.some((p) => p.on) ? { local: localGains(settings.local, settings) } : {}) }),
  evidence: () => [],
});

/** The frames as they are to be read: with what is done to each of them. */
export function withPreparation<F extends StackFrame>(frames: readonly F[], settings: v.InferOutput<typeof schema>): F[] {
  const preparation = preparationOf(settings);
  return preparation ? frames.map((f) => ({ ...f, preparation })) : [...frames];
}

/** How the frames' samples stand to light where their profile does not tell it truly; undefined where it does, or cannot be known. */
export async function findResponse(work: Work, frames: readonly StackFrame[], held: readonly HeldSamples[], { response }: v.InferOutput<typeof schema>, on: Pick<Watch, "signal"> = {}): Promise<ResponseCurve | undefined> {
  const evs = frames.map((f) => exposureEv(f.info.exif));
  if (response === "profile" || frames.length < 2 || evs.some((e) => e === undefined) || frames.some((f) => f.info.format === "raw")) return undefined;
  return work.run("response", { frames: [...held], evs: evs as number[] }, on);
}
