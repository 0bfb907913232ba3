import type { Redis } from "ioredis";
import { PREFIX, QUEUE } from "./address";

const KEY = `${PREFIX}:${QUEUE}:cleared`;

/** When the queue was cleared last, ms since 1970; 0 if never. */
export const clearedAt = async (redis: Redis): Promise<number> =>
  Number((await redis.get(KEY)) ?? 0);

/** Notes that the queue is cleared now. */
export async function noteCleared(redis: Redis): Promise<void> {
  await redis.set(KEY, String(Date.now()));
}
