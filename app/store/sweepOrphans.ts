import { db } from "./db";
import { exclusively } from "./exclusive";

const OF_A_SHOOT = ["frames", "stacks", "takes", "results", "history", "queue"] as const;
const OF_A_FRAME = ["originals", "thumbnails", "appearances"] as const;

/**
 * Removes what belongs to no shoot any more: what work left that ran on while its shoot was deleted,
 * or that a page began and could not end.
 *
 * @returns how many records were removed
 */
export function sweepOrphans(): Promise<number> {
  return exclusively(async () => {
    const tx = (await db()).transaction(["shoots", ...OF_A_SHOOT, ...OF_A_FRAME], "readwrite");
    const shoots = new Set(await tx.objectStore("shoots").getAllKeys());
    let removed = 0;
    for (const name of OF_A_SHOOT) {
      const store = tx.objectStore(name);
      const index = store.index("shootId");
      for (let at = await index.openKeyCursor(null, "nextunique"); at; at = await at.continue()) {
        if (shoots.has(String(at.key))) continue;
        for (const key of await index.getAllKeys(at.key)) {
          await store.delete(key as never);
          removed++;
        }
      }
    }
    const frames = await tx.objectStore("frames").getAll();
    const changes = await tx.objectStore("history").getAll();
    // frames that are taken back may be brought back
    const undone = changes.flatMap(({ mutations }) =>
      mutations.flatMap(({ before, after }) => [before, after]),
    );
    const hashes = new Set(
      [...frames, ...undone].map((record) => (record as { hash?: string } | undefined)?.hash),
    );
    for (const name of OF_A_FRAME) {
      const store = tx.objectStore(name);
      for (const hash of await store.getAllKeys()) {
        if (hashes.has(hash)) continue;
        await store.delete(hash);
        removed++;
      }
    }
    await tx.done;
    return removed;
  });
}
