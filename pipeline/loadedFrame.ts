import type { SampleType } from "../kernels/heap";

/** Samples in the workers' memory. */
export interface LoadedFrame {
  /** px of the blocks in which the file packs brightness, if it does */
  block?: number;
  /** the frame's row that comes first, where only some are held */
  top?: number;
  ptr: number;
  width: number;
  height: number;
  type: SampleType;
  lut: Float32Array;
  matrix: number[];
}
