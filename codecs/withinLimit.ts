import { RhizomeError } from "../core/error";
import type { EncodeInput } from "./codec";
import { OUTPUT_FORMATS } from "./outputFormats";
import type { Parts } from "./stream";

const bytesOf = (parts: Parts): number => parts.reduce((sum, part) => sum + part.length, 0);

/**
 * A file of the best quality, up to the one that is asked for, that is no larger than its limit.
 *
 * @throws RhizomeError `file-limit` where even the lowest quality is larger
 */
export function withinLimit<Input extends Pick<EncodeInput, "format" | "quality" | "limit">>(
  input: Input,
  encode: (input: Input) => Parts,
): Parts {
  const first = encode(input);
  const { limit, quality, format } = input;
  if (!limit || !OUTPUT_FORMATS[format].lossy || bytesOf(first) <= limit) return first;
  let best: Parts | undefined;
  let [low, high] = [1, quality - 1];
  while (low <= high) {
    const middle = (low + high) >> 1;
    const parts = encode({ ...input, quality: middle });
    if (bytesOf(parts) <= limit) {
      best = parts;
      low = middle + 1;
    } else high = middle - 1;
  }
  if (best) return best;
  throw new RhizomeError(
    "file-limit",
    `Even at the lowest quality the file is larger than ${limit / 1e6} MB.`,
    "allow more, or make the picture smaller",
  );
}
