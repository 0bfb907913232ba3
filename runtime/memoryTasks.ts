import type { Heap } from "../kernels/heap";

interface MemoryContext {
  heap: Heap;
}

/** What the runtime itself asks of a worker: bytes in and out of the common memory. */
export const memoryTasks = {
  put({ heap }: MemoryContext, a: { ptr: number; bytes: Uint8Array }) {
    heap.ensure(a.ptr + a.bytes.length);
    heap.u8(a.ptr, a.bytes.length).set(a.bytes);
  },

  /** Bytes of the memory, for a page that does not share it. */
  read({ heap }: MemoryContext, a: { ptr: number; bytes: number }) {
    return heap.u8(a.ptr, a.bytes).slice();
  },

  clear({ heap }: MemoryContext, a: { ptr: number; bytes: number }) {
    heap.ensure(a.ptr + a.bytes);
    heap.k.zero(a.ptr, a.bytes);
  },
};
export type MemoryTasks = typeof memoryTasks;
