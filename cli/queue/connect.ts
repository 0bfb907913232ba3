import { Redis } from "ioredis";
import { RhizomeError } from "../../core/error";
import type { QueueAddress } from "./address";

/** How long a queue may take to answer when a command begins, ms. */
const ANSWER_MS = 10_000;

/**
 * Sees that a queue answers, and that it forgets nothing.
 *
 * @returns what should be changed about it, in words
 * @throws RhizomeError `queue-unreachable`
 */
export async function checkQueue({ shown, connection }: QueueAddress): Promise<string[]> {
  const redis = new Redis({
    ...connection,
    lazyConnect: true,
    connectTimeout: ANSWER_MS,
    maxRetriesPerRequest: 0,
    retryStrategy: () => null,
  });
  // said by what is thrown
  let reason = "";
  redis.on("error", (e: NodeJS.ErrnoException) => (reason = e.code ?? e.message));
  try {
    await redis.connect();
    await redis.ping();
    return await shortcomings(redis);
  } catch (e) {
    throw new RhizomeError(
      "queue-unreachable",
      `The queue at ${shown} does not answer: ${reason || (e as Error).message}.`,
      "start redis-server there, or check the address",
    );
  } finally {
    redis.disconnect();
  }
}

/** What makes a queue forget jobs. Servers that do not tell how they are set say nothing. */
async function shortcomings(redis: Redis): Promise<string[]> {
  const setting = async (name: string): Promise<string | undefined> =>
    ((await redis.config("GET", name).catch(() => [])) as string[])[1];
  const said: string[] = [];
  const policy = await setting("maxmemory-policy");
  if (policy !== undefined && policy !== "noeviction")
    said.push(
      `The queue drops jobs when its memory is full: set maxmemory-policy to noeviction, not ${policy}.`,
    );
  if ((await setting("appendonly")) === "no")
    said.push(
      "The queue forgets its latest jobs when its server ends: set appendonly to yes. A batch that is still running puts them in again.",
    );
  return said;
}

/** Says when a queue is lost, and when it is back. @returns a connection to it, and its end */
export function watchQueue(
  { shown, connection }: QueueAddress,
  say: (text: string) => void,
): { redis: Redis; end: () => void } {
  const redis = new Redis(connection);
  let isLost = false;
  redis.on("error", () => {
    if (!isLost) say(`The queue at ${shown} does not answer; waiting for it.`);
    isLost = true;
  });
  redis.on("close", () => redis.emit("error"));
  redis.on("ready", () => {
    if (isLost) say(`The queue at ${shown} is back.`);
    isLost = false;
  });
  const end = (): void => {
    redis.removeAllListeners("close");
    redis.disconnect();
  };
  return { redis, end };
}
