import { createHash } from "node:crypto";
import { mkdir, readdir, rm, stat, utimes } from "node:fs/promises";
import { join } from "node:path";
import type { ResultCache } from "../resultCache";
import { writeWhole } from "./writeWhole";

const ENDING = ".merge";

/**
 * A folder in which merges are kept, each in a file named by the hash of its key. What was used
 * longest ago goes when they take more than the quota; whatever else lies in the folder is left
 * alone.
 *
 * @param quota  bytes
 */
export function nodeResultCache(folder: string, quota: number): ResultCache {
  const fileOf = (key: string): string =>
    join(folder, createHash("sha256").update(key).digest("hex").slice(0, 40) + ENDING);
  return {
    async get(key) {
      const path = fileOf(key);
      const now = new Date();
      return utimes(path, now, now).then(
        () => ({ name: "a kept merge", path }),
        () => undefined,
      );
    },
    async put(key, packed) {
      if (packed instanceof Blob) return;
      const path = fileOf(key);
      const bytes = packed.reduce((s, p) => s + p.length, 0);
      if (bytes > quota) return;
      await mkdir(folder, { recursive: true });
      const kept = (
        await Promise.all(
          (await readdir(folder))
            .filter((f) => f.endsWith(ENDING))
            .map(async (f) => {
              const file = join(folder, f);
              const s = await stat(file).catch(() => undefined);
              return s && file !== path ? { file, bytes: s.size, usedAt: s.mtimeMs } : undefined;
            }),
        )
      )
        .filter((k) => k !== undefined)
        .sort((a, b) => a.usedAt - b.usedAt);
      let total = bytes + kept.reduce((s, k) => s + k.bytes, 0);
      for (const k of kept) {
        if (total <= quota) break;
        await rm(k.file, { force: true });
        total -= k.bytes;
      }
      await writeWhole(path, packed);
    },
    drop: (key) => rm(fileOf(key), { force: true }),
  };
}
