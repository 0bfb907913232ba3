import { Pool as RuntimePool } from "../runtime/pool";
import type { Runtime } from "../runtime/work";
import type { Tasks } from "./worker/tasks";

/** Threads that know the pipeline's tasks. */
export class Pool extends RuntimePool<Tasks> {}
/** The same as a piece of work sees them. */
export type Threads = Runtime<Tasks>;
