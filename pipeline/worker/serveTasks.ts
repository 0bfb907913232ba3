import type { Codec } from "../../codecs/codec";
import { serve, type Call, type Reply, type Start } from "../../runtime/serve";
import { tasks, type TaskContext } from "./tasks";
import type { FileSource } from "../../runtime/files";

/**
 * A worker that knows every task of the pipeline; its host gives it what is the host's own: how it
 * answers, how files are read, and in what form finished ones are handed on.
 */
export const serveTasks = (
  post: (reply: Reply, transfer: ArrayBuffer[]) => void,
  codec: Codec,
  read: (source: FileSource) => Promise<Uint8Array>,
  finished: TaskContext["finished"] = (parts) => parts,
): ((message: Start | Call) => void) =>
  serve(post, tasks, (heap): TaskContext => ({ heap, codec, read, finished }));
