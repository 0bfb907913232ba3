import { panoramaTasks } from "./panorama/tasks";
import { prepareTasks } from "./prepare/tasks";
import { memoryTasks } from "../runtime/memoryTasks";
import { alignTasks } from "./align/tasks";
import { mergeTasks } from "./merge/tasks";
import { fusionTasks } from "./merge/fusionTasks";
import { focusTasks } from "./merge/focusTasks";
import { toneTasks } from "./tone/tasks";
import { finishTasks } from "./finish/tasks";
import { retouchTasks } from "./retouch/tasks";
import { fillTasks } from "./fill/tasks";
import { straightenTasks } from "./straighten/tasks";
import { deliverTasks } from "./deliver/tasks";
import type { StepContext } from "./stepContext";

/**
 * What the steps ask of a worker. Arguments and results are plain data; pixels stay in the shared
 * memory.
 */
export const stepTasks = {
  ...memoryTasks,
  ...prepareTasks,
  ...alignTasks,
  ...mergeTasks,
  ...fusionTasks,
  ...focusTasks,
  ...retouchTasks,
  ...toneTasks,
  ...finishTasks,
  ...deliverTasks,
  ...panoramaTasks,
  ...straightenTasks,
  ...fillTasks,

  copy({ heap }: StepContext, a: { from: number; to: number; bytes: number }) {
    heap.ensure(a.to + a.bytes);
    heap.u8(a.to, a.bytes).set(heap.u8(a.from, a.bytes));
  },
};
export type StepTasks = typeof stepTasks;
