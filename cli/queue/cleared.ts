import { Redis } from "ioredis";
import { PREFIX, QUEUE, type QueueAddress } from "./address";

const KEY = `${PREFIX}:${QUEUE}:cleared`;

async function withRedis<T>(
  { connection }: QueueAddress,
  use: (redis: Redis) => Promise<T>,
): Promise<T> {
  const redis = new Redis(connection);
  // losing the queue is said by the one who watches it
  redis.on("error", () => undefined);
  try {
    return await use(redis);
  } finally {
    redis.disconnect();
  }
}

/** When the queue was cleared last, ms since 1970; 0 if never. */
export const clearedAt = (address: QueueAddress): Promise<number> =>
  withRedis(address, async (redis) => Number((await redis.get(KEY)) ?? 0));

/** Notes that the queue is cleared now. */
export const noteCleared = (address: QueueAddress): Promise<void> =>
  withRedis(address, async (redis) => {
    await redis.set(KEY, String(Date.now()));
  });
