import type { Heap } from "../kernels/heap";

/** What a worker gives a step's task: the shared memory, and scratch in it. */
export interface StepContext {
  heap: Heap;
}
