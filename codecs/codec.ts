import type { FrameInfo } from "../core/frame/frame";
import type { Samples } from "../kernels/heap";
import type { SpaceId } from "../core/colour/spaces";

export interface Decoded {
  /** RGB interleaved, upright; floats are linear, 1.0 = saturation */
  samples: Samples;
  width: number; height: number;
  /** three tables from sample to linear, R then G then B; empty for floats */
  lut: Float32Array;
  /** linear RGB of the file to linear Rec. 2020 */
  matrix: number[];
  profile: string;
}

export type OutputFormat = "jpg" | "png" | "tif" | "hdr";
export interface EncodeInput {
  samples: Samples;
  width: number; height: number; format: OutputFormat; space: SpaceId; quality: number;
  /** the reference frame's file: its EXIF is carried over, without orientation and thumbnail */
  metadataFrom?: Uint8Array;
}

/** Bytes to samples and back; the same in browser and Node. */
export interface Codec {
  /** @throws RhizomeError `not-a-picture`, `unsupported`, `damaged`, `too-large` */
  inspect(bytes: Uint8Array, name: string): FrameInfo;
  /** @param shrink  1, 2, 4 or 8: the size is divided and rounded up */
  decode(bytes: Uint8Array, name: string, shrink: number): Decoded;
  thumbnail(bytes: Uint8Array, name: string, longEdge: number): Uint8Array;
  encode(input: EncodeInput): Uint8Array;
}
