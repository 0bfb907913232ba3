import type { Camera, LensKind } from "../camera";
import type { DoubtfulPlace } from "./layoutDoubt";
import type { Levelled } from "../level/findLevel";
import type { VerifiedPair } from "../ties/verifyPair";

export interface PanoramaFrame {
  /** full-size px */
  width: number;
  height: number;
  /** px, from the file, if it says */
  focalPx?: number | undefined;
  /**
   * rectilinear by default; its image circle's radius and, where it is not the frame's, its
   * middle, full-size px
   */
  lens?: LensKind;
  circle?: number;
  centre?: readonly [number, number];
}
export interface TiePair {
  a: number;
  b: number;
  points: VerifiedPair["points"];
  errors: number[];
}
export interface Geometry {
  /** undefined for frames that could not be placed */
  cameras: (Camera | undefined)[];
  rmsPx: number[];
  /** frames that other matches have elsewhere, the most doubtful first */
  doubtful?: DoubtfulPlace[];
  /** what set the whole upright, and how sure that is */
  levelled?: Levelled;
  /** the frames were taken along something flat, and not from one point */
  flat?: true;
  /**
   * how far the edges along lines said to be straight are from it, px; null where no edge was found
   */
  straight?: (number | null)[];
  leftOut: number[];
  pairs: TiePair[];
  warnings: { code: string; message: string }[];
}

/** Of a camera what is known of its lens before it is fitted. */
export const drawnBy = ({
  lens,
  circle,
  centre,
}: Pick<PanoramaFrame, "lens" | "circle" | "centre">): Pick<
  Camera,
  "lens" | "circle" | "centre"
> => ({
  ...(lens ? { lens } : {}),
  ...(circle !== undefined ? { circle } : {}),
  ...(centre ? { centre } : {}),
});

/** What an adjustment leaves to be reported. */
export function placed(solved: Pick<Geometry, "cameras" | "rmsPx" | "pairs">): Geometry {
  const leftOut = solved.cameras.flatMap((c, i) => (c ? [] : [i]));
  return {
    ...solved,
    leftOut,
    warnings: leftOut.length
      ? [
          {
            code: "left-out",
            message: `${leftOut.length} of ${solved.cameras.length} frames could not be placed`,
          },
        ]
      : [],
  };
}
