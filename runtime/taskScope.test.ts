import type { MemoryTasks } from "./memoryTasks";
import { Pool } from "./pool";
import type { Call, Reply } from "./serve";
import { TaskScope } from "./taskScope";
import type { Host } from "./worker";

/** Workers whose answers are held back, by the tag of their task. */
function hostHolding(): { host: Host; answer: (tag: string) => void } {
  const held = new Map<string, () => void>();
  const host: Host = {
    threads: 2,
    memory: {} as WebAssembly.Memory,
    spawn() {
      let reply: (r: Reply) => void = () => undefined;
      return {
        post: (message) => {
          if (message.kind !== "call") return;
          const { id, args } = message as Call;
          held.set((args as { tag: string }).tag, () => reply({ id, ok: true, result: 0 }));
        },
        onReply: (listener) => {
          reply = listener;
        },
        onLost: () => undefined,
        close: () => Promise.resolve(),
      };
    },
  };
  return { host, answer: (tag) => held.get(tag)!() };
}

test("a piece of work waits for its own tasks and for nobody else's", async () => {
  const { host, answer } = hostHolding();
  const pool = new Pool(host);
  const [own, other] = [new TaskScope<MemoryTasks>(pool), new TaskScope<MemoryTasks>(pool)];
  const mine = own.run("clear", { tag: "own" } as never);
  const theirs = other.run("clear", { tag: "other" } as never);
  let idle = false;
  const waiting = own.idle().then(() => (idle = true));
  await Promise.resolve();
  expect(idle).toBe(false);
  answer("own");
  await mine;
  await waiting;
  expect(idle).toBe(true);
  answer("other");
  await theirs;
  await other.idle();
  expect(pool.arena.inUse).toBe(0);
});

test("at its end it frees what it did not keep, once its own tasks are done; others go on", async () => {
  const { host, answer } = hostHolding();
  const pool = new Pool(host);
  const outer = new TaskScope<MemoryTasks>(pool);
  let kept = 0;
  let ended = false;
  const work = (async () => {
    await using inner = new TaskScope<MemoryTasks>(outer);
    inner.allocate(1000);
    kept = inner.allocate(64);
    inner.keep(kept);
    void inner.run("clear", { tag: "own" } as never);
  })().then(() => (ended = true));
  const theirs = pool.run("clear", { tag: "other" } as never);
  await Promise.resolve();
  expect(ended).toBe(false);
  answer("own");
  await work;
  answer("other");
  await theirs;
  expect(pool.arena.inUse).toBe(64);
  await outer[Symbol.asyncDispose]();
  expect(pool.arena.inUse).toBe(0);
});

test("what goes on after the end of its scope can neither take memory nor start a task", async () => {
  const { host } = hostHolding();
  const pool = new Pool(host);
  const scope = new TaskScope<MemoryTasks>(pool);
  await scope[Symbol.asyncDispose]();
  expect(() => scope.allocate(64)).toThrow("stopped");
  await expect(scope.run("clear", { tag: "late" } as never)).rejects.toMatchObject({
    code: "stopped",
  });
  expect(pool.arena.inUse).toBe(0);
});
