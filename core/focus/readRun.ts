import type { AlignedFrame } from "../align/alignedFrame";
import { IDENTITY, longestMove, rescale } from "../math/matrix3";
import { isOrdered, settledOrder, travelFaults, type FocusOrder } from "./focusOrder";
import type { FrameSignature } from "./frameSignature";
import { movedParts, type MovedPart } from "./movedParts";
import { meanSquare, runFalloff } from "./runFalloff";
import { runSharpness, type RunSharpness, type SharpMap } from "./sharpMap";

/**
 * A run whose frames lie on each other: what each shows, its sharpness as it lies on the reference,
 * and the reference's px to its own (reduced).
 */
export interface AlignedRun extends FocusOrder {
  frames: {
    signature: FrameSignature;
    warped: SharpMap;
    fromReference: number[];
    /** how far it may lie from the truth, px of the reduced frames, where that is known */
    errorPx?: number;
  }[];
  reference: number;
  /** places of those that fit no neighbour */
  misfits: number[];
  /** places of those that are used even if they are shaken or show what another one does */
  forced: readonly number[];
  /** px of the reduced frames, and full-size px to one of them */
  width: number;
  height: number;
  scale: number;
}
export interface RunReading {
  frames: AlignedFrame[];
  /** places from one end of the focus travel to the other */
  order: number[];
  /** places in it after which a step was too wide */
  gaps: number[];
  /** frames that show the same focus twice */
  twice: [number, number][];
  /** what moved while it was taken */
  moved: MovedPart[];
  warnings: { code: string; message: string }[];
  sharp: RunSharpness;
}

/** Full-size px below which a frame is left where it is; EV that nobody sees. */
const STILL_PX = 0.15;
const SAME_EV = 0.015;

/**
 * What a run tells once its frames lie on each other: the order of its travel, steps too wide,
 * frames to be left out, how light changed, and what moved.
 */
export function readRun({
  frames,
  blurred,
  reference,
  misfits,
  forced,
  width,
  height,
  scale,
  ...travel
}: AlignedRun): RunReading {
  const signatures = frames.map((f) => f.signature);
  const warped = frames.map((f) => f.warped);
  const { order, from } = settledOrder(warped, travel);
  const out = frames.map(({ signature, fromReference: way, errorPx }, i): AlignedFrame => {
    const gain = i === reference ? 0 : Math.log2(signatures[reference]!.light / signature.light);
    const moved = longestMove(way, width, height) * scale;
    const still = moved < STILL_PX;
    return {
      fromReference: still ? [...IDENTITY] : rescale(way, scale),
      ev: 0,
      gainEv: Math.abs(gain) < SAME_EV ? 0 : gain,
      ...(errorPx === undefined
        ? {}
        : { residualPx: i === reference ? 0 : Math.hypot(errorPx * scale, still ? moved / 2 : 0) }),
      movedPx: still ? 0 : moved,
      used: true,
    };
  });
  const leave = (i: number, why: string): void => {
    const used = forced.includes(i);
    Object.assign(out[i]!, {
      used,
      warning: `${why}; it was ${used ? "used because you asked for it" : "left out"}`,
    });
  };
  for (const i of misfits) leave(i, "does not fit its neighbours");
  for (const i of blurred)
    if (i !== reference && out[i]!.used) leave(i, "is nowhere sharper than the others");
  const { gaps, twice } = travelFaults(warped, order);
  // of two that show the same focus the sharper one stays, or the middle one, on which all others
  // lie
  for (const pair of twice) {
    const [less, more] = [...pair].sort(
      (a, b) => sharpnessOf(warped[a]!, a === reference) - sharpnessOf(warped[b]!, b === reference),
    ) as [number, number];
    if (out[less]!.used && out[more]!.used)
      leave(less, "shows the same focus as the frame next to it");
  }
  const placed = (i: number): number[] => rescale(out[i]!.fromReference, 1 / scale);
  const corners = runFalloff(
    order.map((i) => signatures[i]!.cells),
    order.map(placed),
    order.indexOf(reference),
    { width, height },
  );
  for (const [k, i] of order.entries())
    if (corners[k]) {
      out[i]!.cornerEv = corners[k];
      out[i]!.gainEv! -= corners[k]! * meanSquare(signatures[i]!.cells);
    }
  const along = order.filter((i) => out[i]!.used);
  const moved = movedParts(
    along.map((i) => signatures[i]!.cells),
    along.map(placed),
    along.map((i) => signatures[i]!.light),
    scale,
  );
  const warnings = [
    ...(misfits.length
      ? [
          {
            code: "not-aligned",
            message: `${misfits.length === 1 ? "A frame does" : `${misfits.length} frames do`} not fit ${misfits.length === 1 ? "its" : "their"} neighbours along the focus travel`,
          },
        ]
      : []),
    ...(isOrdered(order)
      ? []
      : [
          {
            code: "order-found",
            message: `The frames do not follow the focus travel in their given order; it was ${from === "distances" ? "taken from the focus distances in the files" : "found from the pixels"}`,
          },
        ]),
  ];
  return { frames: out, order, gaps, twice, moved, warnings, sharp: runSharpness(warped) };
}

const sharpnessOf = ({ values }: SharpMap, wanted: boolean): number =>
  wanted ? Infinity : values.reduce((s, v) => s + v, 0);
