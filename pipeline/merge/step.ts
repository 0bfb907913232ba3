import * as v from "valibot";
import { planeBytesOf } from "../../core/raster/accumulator";
import { shareKnown } from "../../core/focus/depthGrid";
import { focusBytes } from "./focusPass";
import { coarserShape } from "../../core/raster/pyramid";
import { RhizomeError } from "../../core/error";
import { exposureEv, type FrameInfo } from "../../core/frame/frame";
import { basisBytes } from "../../core/tone/toneBasis";
import { gridSize } from "../../core/tone/toneGrid";
import { type SAMPLINGS } from "../../core/raster/sampling";
import { choice, data, percent, settingsOf } from "../settings/fields";
import { defineStep, sizeAt } from "../step";
import { decodedBytes, type StackFrame, type Work } from "../work";
import { type Watch } from "../../runtime/work";
import type { MergeFindings, MergeInput } from "./input";
import { focusFrames } from "./focusFrames";
import { fuseFrames } from "./fuseFrames";
import { mergeFrames } from "./mergeFrames";
import { readAhead } from "./readOrder";
import type { Scene } from "./scene";

const SAMPLING_NAMES: Record<(typeof SAMPLINGS)[number], string> = {
  bicubic: "Cubic",
  lanczos3: "Sharp",
  bilinear: "Soft",
};
const ALIGNED = { kinds: ["bracket", "focus"] } as const;

const settings = settingsOf({
  method: choice({
    label: "Method",
    help: "Radiance keeps all light for toning; Fusion blends the exposures as they look. Pyramid takes the sharpest of every scale, best where hairs cross; Depth composes along a map of depth, best on smooth ground; Mixed takes each where it is right.",
    options: [
      { value: "radiance", text: "Radiance", kinds: ["bracket"] },
      { value: "fusion", text: "Fusion", kinds: ["bracket"] },
      { value: "mixed", text: "Mixed", kinds: ["focus"] },
      { value: "pyramid", text: "Pyramid", kinds: ["focus"] },
      { value: "depth", text: "Depth", kinds: ["focus"] },
    ],
    default: "radiance",
    defaultOf: { focus: "mixed" },
    when: ALIGNED,
    change: "Merge method",
  }),
  reference: data({
    label: "Reference",
    help: "The frame that the others are aligned to, by its place from 0; auto is the middle exposure.",
    schema: v.union([v.literal("auto"), v.pipe(v.number(), v.integer(), v.minValue(0))]),
    default: "auto",
    when: { kinds: ["bracket"] },
    change: "Reference frame",
  }),
  deghost: choice({
    label: "Find ghosts",
    help: "Looks for what moved between the exposures, and takes it from one frame.",
    options: [
      { value: "auto", text: "Auto" },
      { value: "off", text: "Off" },
    ],
    default: "auto",
    when: { kinds: ["bracket"] },
    change: "Ghosts",
  }),
  ghostStrength: percent({
    label: "Strength",
    help: "How small a difference counts as movement.",
    min: 0,
    max: 1,
    step: 0.05,
    default: 0.5,
    when: { kinds: ["bracket"], settings: { "merge.deghost": ["auto"] } },
    change: "Strength of deghosting",
  }),
  sampling: choice({
    label: "Sampling",
    help: "How moved frames are resampled: Cubic suits most; Sharp (Lanczos) keeps the finest texture, with faint rims at hard edges; Soft (linear) never has rims.",
    options: (["bicubic", "lanczos3", "bilinear"] as const).map((value) => ({
      value,
      text: SAMPLING_NAMES[value],
    })),
    default: "bicubic",
    when: ALIGNED,
  }),
});
export type MergeSettings = v.InferOutput<typeof settings.schema>;
/**
 * Merges the aligned frames to scene radiance on the reference frame's scale, or fuses them to a
 * picture.
 */
export const mergeStep = defineStep({
  settings,
  key: ({ merge: { method, sampling } }: { merge: MergeSettings }) => [method, sampling],
  plan(frames: readonly FrameInfo[], { method }: MergeSettings, downscale: number) {
    const { width, height } = sizeAt(frames[0]!, downscale);
    const grid = gridSize(width, height);
    const scene = planeBytesOf(width, height) * 4 + grid.width * grid.height * 4 + basisBytes(grid);
    const warping = width * height * 6;
    const weighed = width * height * 8;
    const read = 2 * Math.max(...frames.map((f) => decodedBytes(f, downscale)));
    if (method === "fusion")
      return {
        width,
        height,
        margin: width,
        peakBytes: scene + 7 * coarserShape(width, height).bytes + weighed + read,
        heldBytes: scene,
      };
    if (method !== "radiance")
      return {
        width,
        height,
        margin: width,
        peakBytes: scene + focusBytes({ width, height }, method) + warping + read,
        heldBytes: scene,
      };
    const frame = Math.max(...frames.map((f) => decodedBytes(f, downscale)));
    // one frame is folded while others are being read
    return {
      width,
      height,
      margin: 4,
      peakBytes: scene + Math.min(1 + readAhead(frame), frames.length) * frame,
      heldBytes: scene,
    };
  },
  run: (
    work: Work,
    given: MergeInput,
    { method, sampling }: MergeSettings,
    watch: Watch,
  ): Promise<Scene> => {
    const input = { ...given, sampling };
    if (method === "radiance") return mergeFrames(work, input, watch);
    if (method === "fusion") return fuseFrames(work, input, watch);
    return focusFrames(work, input, method, watch);
  },
  facts: (
    { aligned, statistics, clippedBright, clippedDark, sharp, depth }: MergeFindings,
    { method }: MergeSettings,
  ) => [
    // a fusion has the range of a picture
    ...(method !== "radiance"
      ? []
      : [
          {
            what: "Scene range",
            value: statistics.rangeEv,
            unit: "EV" as const,
            digits: 1 as const,
          },
        ]),
    ...(sharp === undefined || !aligned.sharp?.cells.length
      ? []
      : [
          { what: "Sharp, merged", value: sharp * 100, unit: "%" as const, digits: 0 as const },
          {
            what: "Sharp, best frame",
            value: Math.max(...aligned.sharp.shares) * 100,
            unit: "%" as const,
            digits: 0 as const,
          },
        ]),
    { what: "Clipped, bright", value: clippedBright * 100, unit: "%" as const, digits: 2 as const },
    { what: "Black, darkest", value: clippedDark * 100, unit: "%" as const, digits: 2 as const },
    // in a focus run all differs all the time
    ...(method !== "radiance" && method !== "fusion"
      ? []
      : [
          {
            what: "Moving parts",
            value: 100 * Math.max(0, ...aligned.frames.map((f) => f.ghosts?.share ?? 0)),
            unit: "%" as const,
            digits: 1 as const,
          },
        ]),
    ...(depth
      ? [
          {
            what: "Depth known",
            value: shareKnown(depth) * 100,
            unit: "%" as const,
            digits: 0 as const,
          },
        ]
      : []),
  ],
});

/**
 * The frame others are aligned to: the one asked for, else the middle exposure.
 *
 * @throws RhizomeError `reference-unknown`
 */
export function referenceOf(
  frames: readonly StackFrame[],
  { reference: asked }: MergeSettings,
): number {
  if (asked !== "auto") {
    if (asked >= frames.length)
      throw new RhizomeError(
        "reference-unknown",
        `There is no frame ${asked}; the stack has ${frames.length}.`,
        `give a number from 0 to ${frames.length - 1}, or auto`,
      );
    return asked;
  }
  const order = frames
    .map((f, i) => ({ i, ev: exposureEv(f.info.exif) ?? i }))
    .sort((a, b) => a.ev - b.ev || a.i - b.i);
  return order[order.length >> 1]!.i;
}
