import * as v from "valibot";
import { db, storageError } from "./db";
import { exclusively } from "./exclusive";
import { goodRecords } from "./goodRecords";
import { QueuedSchema, type Queued } from "./records";

/** All deliveries that are not done, in their order; records that cannot be read are left out. */
export async function readQueue(): Promise<Queued[]> {
  const stored = goodRecords("delivery", QueuedSchema, await (await db()).getAll("queue"), []);
  return stored.sort((a, b) => a.order - b.order);
}

/** Writes the queue, alone over all tabs. @throws RhizomeError as the storage says */
const write = (work: () => Promise<void>): Promise<void> =>
  exclusively(work).catch((e: unknown) => {
    throw storageError(e);
  });

/** Keeps deliveries before they begin. @throws RhizomeError `storage-full`, `storage-failed` */
export const keepQueued = (deliveries: readonly Queued[]): Promise<void> =>
  write(async () => {
    const tx = (await db()).transaction("queue", "readwrite");
    for (const delivery of deliveries) await tx.store.put(v.parse(QueuedSchema, delivery));
    await tx.done;
  });

/** Changes what is kept of a delivery; one that is gone stays gone. */
export const updateQueued = (id: string, part: Partial<Omit<Queued, "id">>): Promise<void> =>
  write(async () => {
    const tx = (await db()).transaction("queue", "readwrite");
    const was = await tx.store.get(id);
    if (was) await tx.store.put(v.parse(QueuedSchema, { ...was, ...part }));
    await tx.done;
  });

/** A delivery is done, or no longer wanted. */
export const dropQueued = (id: string): Promise<void> =>
  write(async () => (await db()).delete("queue", id));

/** Keeps the order of the tray. */
export const orderQueue = (ids: readonly string[]): Promise<void> =>
  write(async () => {
    const tx = (await db()).transaction("queue", "readwrite");
    for (const [order, id] of ids.entries()) {
      const was = await tx.store.get(id);
      if (was && was.order !== order) await tx.store.put({ ...was, order });
    }
    await tx.done;
  });
