import type { FileSource, Parts } from "./files";

/**
 * Where kept results lie, by key; the host's: it keeps within its quota and drops what was used
 * longest ago.
 */
export interface ResultCache {
  get(key: string): Promise<FileSource | undefined>;
  put(key: string, packed: Blob | Parts): Promise<void>;
  drop(key: string): Promise<void>;
}
