import { usage } from "../arguments";

/** The name under which stacks wait in the queue's data, and what its keys begin with. */
export const QUEUE = "stacks";
export const PREFIX = "rhizome";

const PORT = 6379;
/** How long to wait before the queue is tried again: at first, and at most, ms. */
const RETRY_MS = 100;
const LONGEST_RETRY_MS = 5000;

/** How a queue is connected. */
interface Connection {
  host: string;
  port: number;
  db: number;
  username?: string;
  password?: string;
  tls?: object;
  /** a command waits until the queue is there */
  maxRetriesPerRequest: null;
  retryStrategy: (times: number) => number;
}

/** Where a queue is. */
export interface QueueAddress {
  /** without the password, for messages */
  shown: string;
  connection: Connection;
}

/**
 * Reads redis://[[USER]:PASSWORD@]HOST[:PORT][/N]; rediss:// is the same over TLS. What is connected
 * so tries again for ever.
 *
 * @throws RhizomeError `usage`
 */
export function queueAddress(text: string): QueueAddress {
  const wrong = (): Error =>
    usage(`--queue is written redis://HOST[:PORT][/N], not "${withoutPassword(text)}"`);
  if (!URL.canParse(text)) throw wrong();
  const { protocol, hostname, port, pathname, username, password, search } = new URL(text);
  const database = pathname.replace(/^\//, "") || "0";
  if (!["redis:", "rediss:"].includes(protocol) || !hostname || search) throw wrong();
  if (!/^\d{1,4}$/.test(database)) throw wrong();
  return {
    shown: `${protocol}//${hostname}:${port || PORT}/${database}`,
    connection: {
      host: hostname.replace(/^\[|\]$/g, ""),
      port: Number(port || PORT),
      db: Number(database),
      ...(username ? { username: decodeURIComponent(username) } : {}),
      ...(password ? { password: decodeURIComponent(password) } : {}),
      ...(protocol === "rediss:" ? { tls: {} } : {}),
      maxRetriesPerRequest: null,
      retryStrategy: (times) => Math.min(RETRY_MS * 2 ** times, LONGEST_RETRY_MS),
    },
  };
}

/** How the engine's parts are opened, all of them alike. */
export const engineOptions = ({
  connection,
}: QueueAddress): { connection: Connection; prefix: string; skipVersionCheck: true } => ({
  connection,
  prefix: PREFIX,
  // it would write to the terminal; `checkQueue` says what is wrong with a server
  skipVersionCheck: true,
});

const withoutPassword = (text: string): string => text.replace(/:[^:@/]*@/, ":…@");
