import { exposureEv, type FrameInfo } from "./frame";

/** The frame whose exposure is in the middle; undefined of none. */
export const middleExposure = <F extends { info: FrameInfo }>(
  frames: readonly F[],
): F | undefined =>
  [...frames].sort((a, b) => (exposureEv(a.info.exif) ?? 0) - (exposureEv(b.info.exif) ?? 0))[
    frames.length >> 1
  ];
