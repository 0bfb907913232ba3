/** What workers can be asked for, by name: each takes its context and one argument of plain data. */
export type TaskTable = Readonly<Record<string, (context: never, args: never) => unknown>>;
export type TaskName<T> = Extract<keyof T, string>;
export type TaskArgs<T, K extends keyof T> = T[K] extends (context: never, args: infer A) => unknown
  ? A
  : never;
export type TaskResult<T, K extends keyof T> = T[K] extends (...given: never[]) => infer R
  ? Awaited<R>
  : never;
