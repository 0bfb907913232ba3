import type { Exif, FrameInfo } from "../core/frame/frame";
import type { DisplayCode } from "../core/output/displayCode";
import type { SpaceId } from "../core/colour/spaces";
import type { CHROMAS, COMPRESSIONS, OutputFormat } from "./outputFormats";
import type { Samples, SampleType } from "../kernels/heap";
import type { SoftProofTable } from "../core/output/softProof";
import type { SoftProofIntent } from "./softProof";
import type { Parts } from "./stream";

export interface Decoded {
  /** RGB interleaved, upright; floats are linear, 1.0 = saturation */
  samples: Samples;
  width: number;
  height: number;
  /** three tables from sample to linear, R then G then B; empty for floats */
  lut: Float32Array;
  /** linear RGB of the file to linear Rec. 2020 */
  matrix: number[];
}

/**
 * Takes a picture's samples from the top down: a part of them, the place of its first among all,
 * and how many there are. The part is the taker's only while it is called; what it answers with
 * false, no more is read.
 */
export type TakeStrip = (part: Samples, at: number, all: number) => boolean | void;
/** What is known of a picture whose samples were taken strip by strip. */
export type DecodedStrips = Omit<Decoded, "samples"> & { type: SampleType };

/** What is written in the file beside the picture. */
export interface Caption {
  creator: string;
  copyright: string;
  /** files' names, in order */
  frames: string[];
  /** EV against the reference, where known */
  evs: (number | undefined)[];
  kind: string;
  /** 0 to 5 and a word, as the user marked the stack */
  rating?: number;
  label?: string;
  /** what the user wrote of it */
  description?: string;
  /** where an equirectangular picture lies on its whole sphere, px */
  sphere?: {
    width: number;
    height: number;
    left: number;
    top: number;
    croppedWidth: number;
    croppedHeight: number;
  };
}

export interface EncodeInput {
  samples: Samples;
  width: number;
  height: number;
  format: OutputFormat;
  space: SpaceId;
  /** how far each pixel is covered, 0 to 255; TIFF and PNG carry it */
  alpha?: Uint8Array;
  /** how much brighter each pixel is on a display with headroom, 0 to 255; JPEG carries it */
  gain?: { values: Uint8Array; headroom: number };
  /** PNG, AVIF: samples are in a code of displays that go beyond white */
  displayCode?: DisplayCode;
  /** samples hold light itself, without the space's curve */
  linear: boolean;
  /** JPEG: 1 to 100, and whether colour keeps its full resolution */
  quality: number;
  chroma: (typeof CHROMAS)[number];
  /** JPEG: the whole picture at once, sharper and sharper */
  progressive?: boolean;
  /** JPEG, WebP, AVIF: most bytes of the file, of which quality is given up for; 0 is no limit */
  limit?: number;
  /** TIFF */
  compression: (typeof COMPRESSIONS)[number];
  /** TIFF: in tiles, of which a part is read without the rest */
  tiles?: boolean;
  /** EXR: half or full floats */
  half: boolean;
  /** said in the file as its size in print, px an inch */
  ppi: number;
  caption?: Caption;
  /** what of the frame's metadata is carried over: all, all but the place, or whose it is alone */
  keep?: "all" | "noPlace" | "copyright";
  /**
   * the reference frame's file: its EXIF and XMP are carried over, without orientation and
   * thumbnail
   */
  metadataFrom?: {
    bytes: Uint8Array;
    name: string;
    /** what was read of it, for files whose block cannot be copied */
    exif: Exif;
  };
}

/** Bytes to samples; the same in browser and Node. */
export interface Decoder {
  /** @throws RhizomeError `not-a-picture`, `unsupported`, `damaged`, `too-large` */
  inspect(bytes: Uint8Array, name: string): FrameInfo;
  /** @param downscale  1, 2, 4 or 8: the size is divided and rounded up */
  decode(bytes: Uint8Array, name: string, downscale: number): Decoded;
  /** the same without the whole picture at hand, where the library can do it */
  decodeStrips(bytes: Uint8Array, name: string, downscale: number, take: TakeStrip): DecodedStrips;
  /** a small JPEG */
  thumbnail(bytes: Uint8Array, name: string, longEdge: number): Uint8Array;
}

/** All formats, each loaded when first met. */
export interface Codec {
  inspect(...args: Parameters<Decoder["inspect"]>): Promise<FrameInfo>;
  decode(...args: Parameters<Decoder["decode"]>): Promise<Decoded>;
  decodeStrips(...args: Parameters<Decoder["decodeStrips"]>): Promise<DecodedStrips>;
  thumbnail(...args: Parameters<Decoder["thumbnail"]>): Promise<Uint8Array>;
  /** the file in pieces */
  encode(input: EncodeInput): Promise<Parts>;
  /** how a printer's profile shows the colours of a space */
  softProofTable(
    profile: Uint8Array,
    name: string,
    intent: SoftProofIntent,
    space: SpaceId,
  ): Promise<SoftProofTable>;
}
