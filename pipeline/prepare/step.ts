import * as v from "valibot";
import {
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
import { choice, data, number, percent, settingsOf } from "../settings/fields";
import { defineStep } from "../step";
import type { StackFrame, Work } from "../work";
import type { LoadedFrame } from "../loadedFrame";
import type { Watch } from "../../runtime/work";

const FRINGE = { min: -30, max: 30, usual: [-20, 20], step: 0.5, digits: 2, default: 0 } as const;
const LENS = { unit: "%", times: 100, digits: 1, signed: true, default: 0 } as const;

const settings = settingsOf({
  temperature: number({
    label: "Temperature",
    help: "Colour of the light taken as white; higher is warmer.",
    unit: "K",
    min: 1700,
    max: 25000,
    usual: [2000, 15000],
    step: 50,
    default: AS_SHOT.temperature,
    change: "White balance",
  }),
  tint: number({
    label: "Tint",
    help: "Green to magenta, in hundredths of a stop of green.",
    min: -150,
    max: 150,
    usual: [-100, 100],
    step: 1,
    default: AS_SHOT.tint,
  }),
  local: data({
    label: "Areas in other light",
    help: "Parts with a white balance of their own, the first drawn first.",
    schema: v.pipe(v.array(LocalWhiteSchema), v.maxLength(60)),
    default: [],
  }),
  distortion: number({
    label: "Distortion",
    help: "Corrects the lens's distortion: positive for barrel, negative for pincushion.",
    min: -0.3,
    max: 0.3,
    usual: [-0.15, 0.15],
    step: 0.002,
    ...LENS,
    change: "Straighten the lens",
  }),
  vignetting: number({
    label: "Vignetting",
    help: "Light lost in the corners.",
    min: 0,
    max: 0.9,
    usual: [0, 0.7],
    step: 0.01,
    ...LENS,
    change: "Even the corners",
  }),
  fringeRed: number({
    label: "Red/cyan",
    help: "Red/cyan fringe: how much larger red is drawn than green, in 1/10000; the control shows px at a corner.",
    ...FRINGE,
    change: "Red/cyan fringe",
  }),
  fringeBlue: number({
    label: "Blue/yellow",
    help: "Blue/yellow fringe: how much larger blue is drawn than green, in 1/10000; the control shows px at a corner.",
    ...FRINGE,
    change: "Blue/yellow fringe",
  }),
  noise: percent({
    label: "Noise",
    help: "Smooths noise before the merge; edges stay.",
    min: 0,
    max: 1,
    step: 0.05,
    default: 0,
    change: "Reduce noise",
  }),
  dust: data({
    label: "Dust",
    help: "Spots that are healed in the same place of every frame.",
    schema: preparationEntries.dust,
    default: [],
  }),
  exceptions: data({
    label: "Frames otherwise",
    help: "Frames that are treated otherwise than the rest.",
    schema: v.pipe(v.array(FrameExceptionSchema), v.maxLength(1000)),
    default: [],
  }),
  response: choice({
    label: "Response",
    help: "Auto checks the files' profile against the exposure times, and estimates the tone curve where the profile is wrong.",
    options: [
      { value: "auto", text: "Auto" },
      { value: "profile", text: "Profile" },
    ],
    default: "auto",
    when: { kinds: ["bracket"] },
  }),
});
type PreparationSettings = v.InferOutput<typeof settings.schema>;

/**
 * White balance in scene-linear light, of the whole and of parts: a factor a channel, which
 * commutes with the merge and is applied to its result, where all exposures lie in registration.
 * What is done to each frame before the merge goes with the frames.
 */
export const prepareStep = defineStep({
  settings,
  /** White balance comes after the merge, and what is done to a frame is part of the frame's key. */
  key: ({ prepare }: { prepare: PreparationSettings }) => prepare.response,
  run: (settings: PreparationSettings): Pick<RenderSettings, "gains" | "local"> => ({
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
  { response }: PreparationSettings,
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
