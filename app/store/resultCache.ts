import type { ResultCache } from "../../runtime/resultCache";
import { db } from "./db";

/**
 * Merges kept beside the shoots take at most this much, and at most a fifth of what the browser
 * allows.
 */
const QUOTA = 3 * 2 ** 30;

export async function resultCacheQuota(): Promise<number> {
  const { quota } = (await navigator.storage?.estimate?.()) ?? {};
  return Math.min(QUOTA, (quota ?? QUOTA * 5) / 5);
}

/**
 * Merged scenes by what they were made from, so that a stack opens at once. What was used longest
 * ago goes first.
 */
export const resultCache: ResultCache = {
  async get(key) {
    const tx = (await db()).transaction(["kept", "keptUse"], "readwrite");
    const blob = await tx.objectStore("kept").get(key);
    // when it was used is written apart, so that the large record is not written again
    if (blob) await tx.objectStore("keptUse").put({ key, bytes: blob.size, usedAt: Date.now() });
    await tx.done;
    return blob && { name: "a kept merge", blob };
  },
  async put(key, packed) {
    if (!(packed instanceof Blob)) return;
    const quota = await resultCacheQuota();
    if (packed.size > quota) return;
    const tx = (await db()).transaction(["kept", "keptUse"], "readwrite");
    const kept = tx.objectStore("kept");
    const use = tx.objectStore("keptUse");
    const old = (await use.index("usedAt").getAll()).filter((k) => k.key !== key);
    let total = packed.size + old.reduce((s, k) => s + k.bytes, 0);
    for (const k of old) {
      if (total <= quota) break;
      await Promise.all([kept.delete(k.key), use.delete(k.key)]);
      total -= k.bytes;
    }
    await Promise.all([
      kept.put(packed, key),
      use.put({ key, bytes: packed.size, usedAt: Date.now() }),
    ]);
    await tx.done;
  },
  async drop(key) {
    const tx = (await db()).transaction(["kept", "keptUse"], "readwrite");
    await Promise.all([
      tx.objectStore("kept").delete(key),
      tx.objectStore("keptUse").delete(key),
      tx.done,
    ]);
  },
};
