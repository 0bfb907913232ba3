import type { ResultCache } from "../../runtime/resultCache";
import { db } from "./db";
import { makeRoom, resultCacheQuota } from "./keptMerges";

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
    await makeRoom(packed.size, quota, key);
    const tx = (await db()).transaction(["kept", "keptUse"], "readwrite");
    await Promise.all([
      tx.objectStore("kept").put(packed, key),
      tx.objectStore("keptUse").put({ key, bytes: packed.size, usedAt: Date.now() }),
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
