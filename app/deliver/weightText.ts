import { plainNumber } from "../ui/format";

/** What a file weighs, in kB up to a megabyte. */
export const weightText = (bytes: number): string =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${plainNumber(bytes / 1e6)} MB`;
