import type { Call, Reply, Start } from "./serve";

/** What a host provides: a thread that takes messages. */
export interface WorkerLike {
  post(message: Start | Call): void;
  onReply(listener: (reply: Reply) => void): void;
  onLost(listener: (why: string) => void): void;
  /** Ends it, whatever it does; settled once it touches the memory no more. */
  close(): Promise<void>;
}
export interface Host {
  /** threads worth starting */
  threads: number;
  /** one memory for all threads; without it there is one thread with a memory of its own */
  memory?: WebAssembly.Memory;
  spawn(): WorkerLike;
}
