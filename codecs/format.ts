import type { FrameFormat } from "../core/frame/frame";

/** Endings of camera raws; most of them are TIFF inside, so the name decides. */
const RAW =
  /\.(dng|cr2|cr3|crw|nef|nrw|arw|sr2|srf|orf|raf|rw2|pef|srw|x3f|3fr|iiq|erf|mef|mos|mrw|rwl)$/i;

const OTHERS = /\.(jpe?g|png|tiff?|webp|avif|exr|hdr)$/i;

/** The same in words. */
export const READABLE = "JPEG, PNG, TIFF, WebP, AVIF, EXR, Radiance HDR or camera raw files";

/** Whether a file's name promises a picture that is read. */
export const isPictureName = (name: string): boolean => RAW.test(name) || OTHERS.test(name);

/**
 * What a file is, by its first bytes, and for camera raws by its name too; undefined if nothing
 * that is read.
 */
export function formatOf(b: Uint8Array, name: string): FrameFormat | undefined {
  const text = (at: number, n: number): string => String.fromCharCode(...b.subarray(at, at + n));
  if (b[0] === 0xff && b[1] === 0xd8) return "jpeg";
  if (text(0, 4) === "\x89PNG") return "png";
  if (text(0, 4) === "RIFF" && text(8, 4) === "WEBP") return "webp";
  if (text(0, 10) === "#?RADIANCE" || text(0, 6) === "#?RGBE") return "hdr";
  if (b[0] === 0x76 && b[1] === 0x2f && b[2] === 0x31 && b[3] === 0x01) return "exr";
  if (text(4, 4) === "ftyp") {
    if (/^(avif|avis|mif1)$/.test(text(8, 4))) return "avif";
    if (RAW.test(name)) return "raw";
    return undefined;
  }
  const tiff = text(0, 4) === "II*\0" || text(0, 4) === "MM\0*";
  if (
    RAW.test(name) &&
    (tiff ||
      /^(IIRO|IIRS|IIU\0|MMOR|FUJI|FOVb|\0MRM|HEAP)/.test(text(0, 4)) ||
      text(6, 4) === "HEAP")
  )
    return "raw";
  return tiff ? "tiff" : undefined;
}
