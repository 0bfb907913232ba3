import * as v from "valibot";
import type { FrameSignature } from "../../core/grouping/signature";

const toBase64 = (bytes: Uint8Array): string =>
  btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join(""));
const fromBase64 = (text: string): Uint8Array =>
  Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));

/** What grouping compares, as JSON can hold it. */
const StoredSchema = v.object({
  width: v.number(),
  height: v.number(),
  log: v.string(),
  sharp: v.string(),
  colour: v.optional(v.string()),
  bright: v.number(),
  dark: v.number(),
});

/** @returns undefined for one of an older kind, which is made anew when it is needed */
export function storedAppearance(signature: FrameSignature): unknown {
  if (!signature.log || !signature.sharp) return undefined;
  return {
    ...signature,
    log: toBase64(signature.log),
    sharp: toBase64(signature.sharp),
    ...(signature.colour ? { colour: toBase64(signature.colour) } : {}),
  };
}

/** @returns undefined where it cannot be read: it is made anew when it is needed */
export function readAppearance(stored: unknown): FrameSignature | undefined {
  const read = v.safeParse(StoredSchema, stored);
  if (!read.success) return undefined;
  const { log, sharp, colour, ...facts } = read.output;
  try {
    return {
      ...facts,
      log: fromBase64(log),
      sharp: fromBase64(sharp),
      ...(colour === undefined ? {} : { colour: fromBase64(colour) }),
    };
  } catch {
    return undefined;
  }
}
