import { closest, distance } from "fastest-levenshtein";

/** Of a longer word so many letters may be wrong, a third of a shorter one. */
const MOST_WRONG = 4;

/** The known name that a wrong one was meant for; undefined where none is like it. */
export function nearestName(wrong: string, known: readonly string[]): string | undefined {
  if (!known.length) return undefined;
  const found = closest(wrong, known);
  const most = Math.min(MOST_WRONG, Math.ceil(wrong.length / 3));
  return distance(wrong, found) <= most ? found : undefined;
}

/** The same as the end of a message; nothing where there is none. @param before  every name */
export function nearestSaid(wrong: string, known: readonly string[], before = ""): string {
  const found = nearestName(wrong, known);
  return found === undefined ? "" : `; the nearest is ${before}${found}`;
}
