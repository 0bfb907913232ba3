import { RhizomeError } from "../../core/error";
import { createMemory, Heap } from "../../kernels/heap";
import type { Codec } from "../../codecs/codec";
import { tasks, type FileSource, type TaskContext, type TaskName } from "./tasks";

export interface Start {
  kind: "start";
  memory?: WebAssembly.Memory;
}
export interface Call {
  kind: "call";
  id: number;
  task: TaskName;
  args: never;
  scratch?: { ptr: number; bytes: number };
}
export type Reply =
  | { id: number; ok: true; result: unknown }
  | { id: number; ok: false; error: { code: string; message: string; remedy: string } };

/**
 * A worker's whole life: take calls one at a time, run them on the heap, answer. The host gives it
 * its two doors.
 */
export function serve(
  post: (reply: Reply, transfer: ArrayBuffer[]) => void,
  codec: Codec,
  read: (s: FileSource) => Promise<Uint8Array>,
  finished: TaskContext["finished"] = (parts) => parts,
): (message: Start | Call) => void {
  let context: TaskContext | undefined;
  let queue: Promise<void> = Promise.resolve();
  const answer = async (call: Call): Promise<void> => {
    try {
      if (!context) throw new Error("not started");
      if (call.scratch) context.heap.useScratch(call.scratch.ptr, call.scratch.bytes);
      const result: unknown = await (tasks[call.task] as (c: TaskContext, a: never) => unknown)(
        context,
        call.args,
      );
      post({ id: call.id, ok: true, result }, buffersOf(result));
    } catch (e) {
      const { code, message, remedy } = RhizomeError.from(e);
      post({ id: call.id, ok: false, error: { code, message, remedy } }, []);
    }
  };
  return (message) => {
    if (message.kind === "start") {
      const heap = new Heap(message.memory ?? createMemory(false), message.memory !== undefined);
      context = { heap, codec, read, finished };
    } else queue = queue.then(() => answer(message));
  };
}

function buffersOf(result: unknown): ArrayBuffer[] {
  const values =
    result && typeof result === "object" && !ArrayBuffer.isView(result)
      ? Object.values(result)
      : [result];
  const found = values.filter(
    (v): v is Uint8Array =>
      ArrayBuffer.isView(v) &&
      v.buffer instanceof ArrayBuffer &&
      v.byteLength === v.buffer.byteLength,
  );
  return [...new Set(found.map((v) => v.buffer as ArrayBuffer))];
}
