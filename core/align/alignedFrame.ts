import type { MotionModel } from "./motionModels";
/**
 * A measure per sample of a grid of `scale` full-size px; `confidences` of a ghost map are 0 where
 * something moved and 255 where nothing did.
 */
export interface GhostMap {
  width: number;
  height: number;
  scale: number;
  confidences: Uint8Array;
  share: number;
}

export interface AlignedFrame {
  /** reference px to this frame's px, both full size, row-major */
  fromReference: number[];
  /** EV of this frame against the reference, refined from the pixels */
  ev: number;
  /** of a focus run: EV to add so that it is as bright as the reference */
  gainEv?: number;
  /**
   * of a focus run: EV more at the frame's corners, squared between them and its middle, so that it
   * falls off as the reference does
   */
  cornerEv?: number;
  /**
   * how far the frame may lie from the truth, RMS over it in full-size px, by blocks that the fit
   * did not use; undefined where that is not known
   */
  residualPx?: number;
  used: boolean;
  /** the longest way of a corner, full-size px */
  movedPx: number;
  warning?: string;
  /**
   * confidence per sample of the half-size grid where something moved, 0 = ghost; missing where
   * nothing did
   */
  ghosts?: GhostMap;
  /** how far the frame disagrees with the others, in 1/32 widths of the noise */
  differs?: GhostMap;
}

export interface AlignOptions {
  motion: MotionModel | "auto";
  reference: number;
  deghost: boolean;
  /** of finding what moved, 0 to 1 */
  strength: number;
  /** places of frames to be used even if they do not fit */
  forced: readonly number[];
  /** full-size px a px of the reduced frames */
  scale: number;
}
