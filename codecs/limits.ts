import { RhizomeError } from "../core/error";

/** Largest picture that is opened, in pixels: beyond it a header is taken for a trap. */
const LARGEST = 300e6;

/** Refuses sizes that no picture has. @throws RhizomeError `too-large`, `damaged` */
export function checkSize(name: string, width: number, height: number): void {
  if (!(width >= 1 && height >= 1))
    throw new RhizomeError(
      "damaged",
      `${name} says that it is ${width} x ${height} px.`,
      "copy it from the card again",
    );
  if (width * height > LARGEST)
    throw new RhizomeError(
      "too-large",
      `${name} is ${width} x ${height} px: more than 300 megapixels.`,
      "save it in a smaller size",
    );
}

/** Most bytes that reading a picture may hold at once. */
const MOST_HELD = 2 ** 31;

/**
 * Refuses a picture that cannot be read in strips and is too large to be held whole.
 *
 * @param pixelBytes  what its decoder holds for each pixel
 * @throws RhizomeError `too-large`
 */
export function checkHeld(name: string, pixels: number, pixelBytes: number, why: string): void {
  if (pixels * pixelBytes <= MOST_HELD) return;
  throw new RhizomeError(
    "too-large",
    `${name} would take ${((pixels * pixelBytes) / 2 ** 30).toFixed(1)} GiB to read: ${why}.`,
    "save it in a smaller size, or as a JPEG or PNG that is not progressive",
  );
}

const LONGEST_REASON = 160;

/** What a library said, without its own name and numbers. */
const plainReason = (said: string): string =>
  said
    .replace(/^\s*[\w.]+:\s+/, "")
    .replace(/\s*\(\d+(\.\d+)?\)\s*\.?\s*$/, "")
    .replace(/\bundefined\b/g, "this kind")
    .replace(/[\s.:]+$/, "")
    .trim()
    .slice(0, LONGEST_REASON);

/** The error of a file that a decoder gave up on. @param e  what the decoder threw */
export function damaged(name: string, e: unknown): RhizomeError {
  if (e instanceof RhizomeError) return e;
  // libvips throws a pair of kind and text
  const said: unknown = (e as { message?: unknown } | undefined)?.message ?? e;
  const words = Array.isArray(said) ? (said[1] as unknown) : said;
  const all = typeof words === "string" ? words : "";
  const text = plainReason(all.split("\n").filter(Boolean).at(-1) ?? "");
  return new RhizomeError(
    "damaged",
    `${name} cannot be read to its end: ${text || "the data is broken"}.`,
    "copy it from the card again",
  );
}
