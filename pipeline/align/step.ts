import { TEMPLATE_BYTES } from "../../core/align/template";
import * as v from "valibot";
import type { AlignedFrame } from "../../core/align/alignedFrame";
import type { ResponseCurve } from "../../core/bracket/estimateResponse";
import type { DisplacedEdges } from "../../core/focus/displacedEdges";
import type { MovedPart } from "../../core/focus/movedParts";
import type { RunSharpness } from "../../core/focus/sharpMap";
import { exposureEv, namesOf } from "../../core/frame/frame";
import { invert } from "../../core/math/matrix3";
import type { Straightening } from "../straighten/straightening";
import { choice, data, settingsOf } from "../settings/fields";
import { defineStep } from "../step";
import { checkSizes, type StackFrame, type Work } from "../work";
import { type LoadedFrame } from "../loadedFrame";
import { type Watch } from "../../runtime/work";

export interface Aligned {
  frames: AlignedFrame[];
  reference: number;
  /** how samples stand to light, where the profile is not believed */
  response?: ResponseCurve;
  /** of a focus run: places along the focus travel */
  order?: number[];
  /** places in it after which a step was too wide, and frames that show the same focus twice */
  gaps?: number[];
  twice?: [number, number][];
  /** parts that moved while it was taken */
  moved?: MovedPart[];
  /** edges that lie elsewhere in one of two neighbours along its travel */
  displaced?: DisplacedEdges[];
  /** where its frames are sharp */
  sharp?: RunSharpness;
  warnings?: { code: string; message: string }[];
  /** how the picture lies on the reference frame, where it is set upright */
  straightening?: Straightening;
}
export interface AlignInput {
  frames: readonly StackFrame[];
  /** the same, decoded at 1/downscale */
  loaded: LoadedFrame[];
  reference: number;
  deghost: boolean;
  strength: number;
  response?: ResponseCurve | undefined;
  downscale: number;
}

const settings = settingsOf({
  motion: choice({
    label: "Motion",
    help: "What may have moved between frames; Auto measures it.",
    options: [
      { value: "auto", text: "Auto" },
      { value: "none", text: "None" },
      { value: "shift", text: "Shift" },
      { value: "similarity", text: "Shift and roll" },
      { value: "homography", text: "Perspective" },
    ],
    default: "auto",
  }),
  forced: data({
    label: "Used anyway",
    help: "Ids or file names of frames that are used even if they do not fit.",
    schema: v.array(v.string()),
    default: [],
  }),
});
export type AlignSettings = v.InferOutput<typeof settings.schema>;
/** What of the merge's settings is found while frames are aligned. */
interface MovementSettings {
  reference: number | "auto";
  deghost: string;
  ghostStrength: number;
}
/**
 * Scratch that aligning frames of so many px takes: with the templates of the reference, of the
 * merge, and of what stands still.
 */
export const alignScratch = (px: number): number => px * 8 * 6 + 3 * TEMPLATE_BYTES + (1 << 23);

/** Places in the stack of the frames that are used although they do not fit. */
export const forcedPlaces = (frames: readonly StackFrame[], forced: readonly string[]): number[] =>
  frames.flatMap((f, i) => (namesOf(f).some((name) => forced.includes(name)) ? [i] : []));

/**
 * Finds how each frame lies against the reference frame, and what moved; on reduced frames, for
 * every size.
 */
export const alignStep = defineStep({
  settings,
  key: ({ align, merge }: { align: AlignSettings; merge: MovementSettings }) => [
    align,
    merge.reference,
    merge.deghost,
    merge.ghostStrength,
  ],
  /** Registers all frames with the reference. @throws RhizomeError `size-mismatch` */
  async run(
    work: Work,
    { frames, loaded, reference, deghost, strength, response, downscale }: AlignInput,
    { motion, forced }: AlignSettings,
    { signal }: Pick<Watch, "signal"> = {},
  ): Promise<Aligned> {
    checkSizes(frames, reference);
    const n = loaded[reference]!.width * loaded[reference]!.height;
    const aligned = await work.run(
      "align",
      {
        frames: loaded,
        evs: frames.map((f) => exposureEv(f.info.exif)),
        ...(response ? { response } : {}),
        options: {
          motion,
          reference,
          deghost,
          strength,
          scale: downscale,
          forced: forcedPlaces(frames, forced),
        },
      },
      { scratch: alignScratch(n), ...(signal ? { signal } : {}) },
    );
    return { frames: aligned, reference, ...(response ? { response } : {}) };
  },
  facts: ({ frames, order, gaps }: Aligned) => [
    // of a focus travel the steps over which one sharp zone reaches to the next
    ...(order && order.length > 1
      ? [
          {
            what: "Depth covered",
            value: 100 * (1 - (gaps?.length ?? 0) / (order.length - 1)),
            unit: "%" as const,
            digits: 0 as const,
          },
          {
            what: "Gaps in depth",
            value: gaps?.length ?? 0,
            unit: "" as const,
            digits: 0 as const,
          },
        ]
      : []),
    {
      what: "Moved, longest",
      value: Math.max(...frames.map((f) => f.movedPx)),
      unit: "px" as const,
      digits: 1 as const,
    },
    {
      what: "Alignment, worst",
      value: Math.max(...frames.map((f) => (f.used ? (f.residualPx ?? 0) : 0))),
      unit: "px" as const,
      digits: 2 as const,
    },
  ],
});

/** Frame px to reference px, as reports give it. */
export const toReference = (a: AlignedFrame): number[] => {
  const m = invert(a.fromReference);
  return m.map((v) => v / m[8]!);
};

/** Frames of a focus run, by place, that were left out because another one shows the same focus. */
export const shownAgain = (aligned: Pick<Aligned, "frames" | "twice"> | undefined): Set<number> =>
  new Set(aligned?.twice?.flat().filter((i) => !aligned.frames[i]!.used));

const UNUSED: AlignedFrame = {
  fromReference: [1, 0, 0, 0, 1, 0, 0, 0, 1],
  ev: 0,
  residualPx: 0,
  movedPx: 0,
  used: false,
};

type Identified = Pick<StackFrame, "id">;

/** The place in a stack of each frame that takes part; a frame is known by its id. */
export function placesInStack(all: readonly Identified[], used: readonly Identified[]): number[] {
  const places = new Map(all.map(({ id }, i) => [id, i]));
  return used.map(({ id }) => places.get(id)!);
}

/** The alignment over all frames of the stack, those left out marked as unused. */
export function overAll(
  all: readonly Identified[],
  used: readonly Identified[],
  aligned: Aligned,
): Aligned {
  const places = placesInStack(all, used);
  const inAll = (i: number): number => places[i]!;
  const frames = all.map(() => UNUSED);
  for (const [i, place] of places.entries()) frames[place] = aligned.frames[i]!;
  return {
    ...aligned,
    ...(aligned.order ? { order: aligned.order.map(inAll) } : {}),
    ...(aligned.twice
      ? { twice: aligned.twice.map(([a, b]): [number, number] => [inAll(a), inAll(b)]) }
      : {}),
    ...(aligned.displaced
      ? {
          displaced: aligned.displaced.map((d) => ({
            ...d,
            frames: d.frames.map(inAll) as [number, number],
          })),
        }
      : {}),
    frames,
    reference: inAll(aligned.reference),
  };
}
