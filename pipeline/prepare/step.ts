import * as v from "valibot";
import {
  AS_TAKEN,
  FrameExceptionSchema,
  isAbout,
  preparationEntries,
  preparationOf,
  type Preparation,
  type PrepareSettings,
} from "../../core/frame/preparation";
import { exposureEv } from "../../core/frame/frame";
import type { ResponseCurve } from "../../core/bracket/estimateResponse";
import { localGains, LocalWhiteSchema } from "../../core/colour/localWhite";
import { AS_SHOT, whiteBalanceGains } from "../../core/colour/whiteBalance";
import type { RenderSettings } from "../../core/tone/renderStrip";
import { range } from "../../core/math/range";
import { defineStep } from "../step";
import type { LoadedFrame, StackFrame, Work } from "../work";
import type { Watch } from "../../runtime/work";

const schema = v.object({
  temperature: range(1700, 25000),
  tint: range(-150, 150),
  /** parts that lie in another light, the first drawn first */
  local: v.pipe(v.array(LocalWhiteSchema), v.maxLength(60)),
  ...preparationEntries,
  /** frames that are treated otherwise */
  exceptions: v.pipe(v.array(FrameExceptionSchema), v.maxLength(1000)),
  /** whether a file's profile is believed, or held against the exposure times first */
  response: v.picklist(["auto", "profile"]),
});

/**
 * White balance in scene-linear light, of the whole and of parts: a factor a channel, which
 * commutes with the merge and is applied to its result, where all exposures lie in registration.
 * What is done to each frame before the merge goes with the frames.
 */
export const prepareStep = defineStep({
  settings: {
    schema,
    defaults: { ...AS_SHOT, local: [], ...AS_TAKEN, exceptions: [], response: "auto" },
  },
  /** White balance comes after the merge, and what is done to a frame is part of the frame's key. */
  key: ({ prepare }: { prepare: v.InferOutput<typeof schema> }) => prepare.response,
  run: (settings: v.InferOutput<typeof schema>): Pick<RenderSettings, "gains" | "local"> => ({
    gains: whiteBalanceGains(settings),
    ...(settings.local.some((p) => p.on) ? { local: localGains(settings.local, settings) } : {}),
  }),
});

/** The frames as they are to be read: with what is done to each of them. */
export function withPreparation<F extends StackFrame>(
  frames: readonly F[],
  settings: PrepareSettings,
): F[] {
  return frames.map((f) => {
    const preparation = preparationFor(f, settings);
    return preparation ? { ...f, preparation } : f;
  });
}

/**
 * What is done to one frame. All of the merge is given the stack's white afterwards; a frame of
 * another white is brought to where that makes it neutral.
 */
export function preparationFor(
  frame: Pick<StackFrame, "id" | "info">,
  settings: PrepareSettings,
): Preparation | undefined {
  const own = settings.exceptions.find((e) => isAbout(e, frame));
  if (!own) return preparationOf(settings);
  const white = {
    temperature: own.temperature ?? settings.temperature,
    tint: own.tint ?? settings.tint,
  };
  const all = whiteBalanceGains(settings);
  const gains = whiteBalanceGains(white).map((g, c) => g / all[c]!);
  return preparationOf({
    ...settings,
    ...(own as Partial<Preparation>),
    ...(gains.some((g) => Math.abs(g - 1) > 1e-6) ? { gains } : {}),
  });
}

/**
 * How the frames' samples stand to light where their profile does not tell it truly; undefined
 * where it does, or cannot be known.
 */
export async function findResponse(
  work: Work,
  frames: readonly StackFrame[],
  loaded: readonly LoadedFrame[],
  { response }: v.InferOutput<typeof schema>,
  on: Pick<Watch, "signal"> = {},
): Promise<ResponseCurve | undefined> {
  const evs = frames.map((f) => exposureEv(f.info.exif));
  if (
    response === "profile" ||
    frames.length < 2 ||
    evs.some((e) => e === undefined) ||
    frames.some((f) => f.info.format === "raw")
  )
    return undefined;
  return work.run("response", { frames: [...loaded], evs: evs as number[] }, on);
}
