import { RhizomeError } from "../core/error";
import { createMemory, Heap } from "../kernels/heap";
import type { TaskTable } from "./taskTable";

export interface Start {
  kind: "start";
  memory?: WebAssembly.Memory;
}
export interface Call {
  kind: "call";
  id: number;
  task: string;
  args: never;
  scratch?: { ptr: number; bytes: number };
}
export type Reply =
  /** a call has been taken up: the worker is alive */
  | { id: number; begun: true }
  | { id: number; ok: true; result: unknown }
  | { id: number; ok: false; error: { code: string; message: string; remedy: string } };

/**
 * A worker's whole life: take calls one at a time, run them on the heap, answer.
 *
 * @param tasks    what it can be asked for
 * @param context  what the tasks work with, once the memory is there
 */
export function serve<T extends TaskTable>(
  post: (reply: Reply, transfer: ArrayBuffer[]) => void,
  tasks: T,
  context: (heap: Heap) => Parameters<T[keyof T]>[0],
): (message: Start | Call) => void {
  let started: { heap: Heap; context: never } | undefined;
  let queue: Promise<void> = Promise.resolve();
  const answer = async (call: Call): Promise<void> => {
    post({ id: call.id, begun: true }, []);
    try {
      if (!started) throw new Error("not started");
      if (call.scratch) started.heap.useScratch(call.scratch.ptr, call.scratch.bytes);
      const task = tasks[call.task];
      if (!task) throw new Error(`there is no task "${call.task}"`);
      const result: unknown = await task(started.context, call.args);
      post({ id: call.id, ok: true, result }, buffersOf(result));
    } catch (e) {
      const { code, message, remedy } = RhizomeError.from(e);
      post({ id: call.id, ok: false, error: { code, message, remedy } }, []);
    }
  };
  return (message) => {
    if (message.kind === "start") {
      const heap = new Heap(message.memory ?? createMemory(false), message.memory !== undefined);
      started = { heap, context: context(heap) as never };
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
