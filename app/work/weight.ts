import type { OutputFormat } from "../../codecs/outputFormats";
import type { FileSettings } from "../../pipeline/deliver/settings";
import { keepRatios, readRatios, usualRatio, withRatio, type Ratios } from "./ratios";

/** What decides how large a file is, beside what is in the picture. */
export type Weighed = Pick<
  FileSettings,
  "format" | "depth" | "quality" | "chroma" | "compression" | "limit"
>;

/** Bytes a pixel of photographs, at the usual quality or 8 bits. */
const BYTES_PER_PIXEL: Record<OutputFormat, number> = {
  jpg: 0.42,
  png: 1.7,
  tif: 2.1,
  webp: 0.25,
  avif: 0.2,
  jxl: 0.3,
  pdf: 0.42,
  exr: 3.6,
  hdr: 3,
};
/** At this quality a lossy file weighs what the table says; ten less make it so many times. */
const USUAL_QUALITY = 92;
const TEN_LESS = 0.62;
const HALF_COLOUR = 0.75;
/** 16 bits a sample, of which the lower ones do not compress, and floats, against 8. */
const OF_DEPTH = { "8": 1, "16": 2.5, "32f": 3.4 } as const;
const UNCOMPRESSED = 1.4;

/** What the numbers alone foretell, bytes a pixel. */
function modelled({ format, depth, quality, chroma, compression }: Weighed): number {
  const base = BYTES_PER_PIXEL[format];
  switch (format) {
    case "jpg":
    case "pdf":
      return (
        base * TEN_LESS ** ((USUAL_QUALITY - quality) / 10) * (chroma === "half" ? HALF_COLOUR : 1)
      );
    case "webp":
    case "avif":
    case "jxl":
      return base * TEN_LESS ** ((USUAL_QUALITY - quality) / 10);
    case "tif":
      return base * OF_DEPTH[depth] * (compression === "none" ? UNCOMPRESSED : 1);
    case "png":
      return base * OF_DEPTH[depth];
    case "exr":
      return base * (depth === "32f" ? 2 : 1);
    case "hdr":
      return base;
  }
}

/** What a file will weigh, bytes, by what like ones weighed. @param px  of the file */
export function expectedBytes(settings: Weighed, px: number, ratios: Ratios): number {
  const bytes = px * modelled(settings) * usualRatio(ratios, settings.format);
  return settings.limit > 0 ? Math.min(bytes, settings.limit * 1e6) : bytes;
}

const NAME = "weight";

export const readWeights = (): Ratios => readRatios(NAME);

/** Keeps what a file weighs; one that had to stay within a limit tells nothing. */
export function keepWeight(settings: Weighed, px: number, bytes: number): void {
  if (settings.limit > 0) return;
  keepRatios(NAME, withRatio(readWeights(), settings.format, bytes / (px * modelled(settings))));
}
