import { jest } from "@jest/globals";
import { RhizomeError } from "../core/error";
import { random } from "../core/math/random";
import { Arena } from "./arena";
import { Pool } from "./pool";
import type { Host, WorkerLike } from "./worker";
import type { Call, Reply } from "./serve";
import type { Priority } from "./work";

test("an arena never hands out the same bytes twice, and gets all of them back", () => {
  const rnd = random(3);
  const arena = new Arena(64, 1 << 20);
  const live = new Map<number, number>();
  for (let i = 0; i < 4000; i++) {
    if (rnd() < 0.55) {
      const size = 1 + Math.floor(rnd() * 9000);
      const at = arena.allocate(size);
      if (at === undefined) continue;
      expect(at % 64).toBe(0);
      expect([...live].every(([a, s]) => at + size <= a || a + s <= at)).toBe(true);
      live.set(at, size);
    } else if (live.size) {
      const at = [...live.keys()][Math.floor(rnd() * live.size)]!;
      arena.free(at);
      arena.free(at);
      live.delete(at);
    }
  }
  for (const at of live.keys()) arena.free(at);
  expect(arena.inUse).toBe(0);
  expect(arena.allocate((1 << 20) - 64)).toBe(64);
  expect(arena.allocate(1)).toBeUndefined();
});

/** A host whose workers answer by `act`. */
function fakeHost(
  threads: number,
  act: (call: Call, reply: (r: Reply) => void, die: (why: string) => void) => void,
): Host & { spawned: number } {
  const host = {
    threads,
    spawned: 0,
    memory: {} as WebAssembly.Memory,
    spawn(): WorkerLike {
      host.spawned++;
      let answer: (r: Reply) => void = () => undefined;
      let die: (why: string) => void = () => undefined;
      return {
        post: (m) => {
          if (m.kind === "call") setTimeout(() => act(m, answer, die), 1);
        },
        onReply: (f) => {
          answer = f;
        },
        onLost: (f) => {
          die = f;
        },
        close: () => Promise.resolve(),
      };
    },
  };
  return host;
}
const ok = (call: Call, reply: (r: Reply) => void): void =>
  reply({ id: call.id, ok: true, result: call.task });

test("a pool runs more tasks than it has threads, by their priority", async () => {
  const order: string[] = [];
  const pool = new Pool(
    fakeHost(1, (c, reply) => {
      order.push((c.args as unknown as { tag: string }).tag);
      ok(c, reply);
    }),
  );
  const run = (tag: string, priority: Priority) =>
    pool.run("clear", { tag } as never, { priority });
  await Promise.all([
    run("at work", "background"),
    run("by itself", "background"),
    run("delivery", "asked"),
    run("next of the delivery", "asked"),
    run("opened stack", "opened"),
    run("older view", "screen"),
    run("view", "screen"),
  ]);
  expect(order).toEqual([
    "at work",
    "view",
    "older view",
    "opened stack",
    "delivery",
    "next of the delivery",
    "by itself",
  ]);
  expect(pool.arena.inUse).toBe(0);
});

test("while pictures are drawn, one of two threads is kept for them; after that both work again", async () => {
  jest.useFakeTimers();
  try {
    let running = 0;
    let most = 0;
    let answered = 0;
    const pool = new Pool(
      fakeHost(2, (c, reply) => {
        const slow = (c.args as unknown as { slow?: boolean }).slow;
        if (slow) most = Math.max(most, ++running);
        setTimeout(
          () => {
            if (slow) running--;
            ok(c, reply);
          },
          slow ? 300 : 1,
        );
      }),
    );
    const draw = (): void => {
      void pool.run("clear", {} as never, { priority: "screen" }).then(() => answered++);
    };
    draw();
    await jest.advanceTimersByTimeAsync(10);
    const slow = Array.from({ length: 8 }, () => pool.run("clear", { slow: true } as never));
    for (let i = 0; i < 4; i++) {
      await jest.advanceTimersByTimeAsync(40);
      draw();
      await jest.advanceTimersByTimeAsync(10);
      expect(answered).toBe(i + 2);
    }
    expect(most).toBe(1);
    await jest.advanceTimersByTimeAsync(10000);
    await Promise.all(slow);
    expect(most).toBe(2);
  } finally {
    jest.useRealTimers();
  }
});

test("a worker that dies is replaced and its task done again; one that dies twice is named", async () => {
  let deaths = 0;
  const host = fakeHost(2, (c, reply, die) => {
    if (deaths++ < 1) die("killed");
    else ok(c, reply);
  });
  await expect(new Pool(host).run("clear", {} as never)).resolves.toBe("clear");
  expect(host.spawned).toBe(3);
  await expect(
    new Pool(fakeHost(1, (_c, _r, die) => die("killed"))).run("clear", {} as never),
  ).rejects.toMatchObject({ code: "worker-lost" });
});

test("stopping answers before the worker does, drops what waits, and the pool goes on", async () => {
  const stopper = new AbortController();
  const called: string[] = [];
  let answer: () => void = () => undefined;
  const pool = new Pool(
    fakeHost(1, (c, reply) => {
      called.push((c.args as unknown as { tag: string }).tag);
      answer = () => ok(c, reply);
    }),
  );
  const run = (tag: string, signal?: AbortSignal) =>
    pool.run("clear", { tag } as never, signal ? { signal } : {});
  const both = [run("at work", stopper.signal), run("waiting", stopper.signal)].map((p) =>
    p.then(
      () => "done",
      (e: RhizomeError) => e.code,
    ),
  );
  while (!called.length) await new Promise((r) => setTimeout(r, 1));
  stopper.abort();
  expect(await Promise.all(both)).toEqual(["stopped", "stopped"]);
  answer();
  const after = run("after");
  while (called.length < 2) await new Promise((r) => setTimeout(r, 1));
  answer();
  await expect(after).resolves.toBe("clear");
  expect(called).toEqual(["at work", "after"]);
  await pool.idle();
  expect(pool.arena.inUse).toBe(0);
});

test("arguments that cannot be sent fail their task, and the worker goes on", async () => {
  const host = fakeHost(1, ok);
  const spawn = host.spawn.bind(host);
  host.spawn = () => {
    const worker = spawn();
    return {
      ...worker,
      post: (message) => worker.post(message.kind === "call" ? structuredClone(message) : message),
    };
  };
  const pool = new Pool(host);
  const unsendable = { tag: () => undefined } as never;
  await expect(pool.run("clear", unsendable)).rejects.toMatchObject({ name: "DataCloneError" });
  await expect(pool.run("clear", {} as never)).resolves.toBe("clear");
  expect(pool.arena.inUse).toBe(0);
});

test("memory that does not suffice is an error by name", async () => {
  const pool = new Pool(fakeHost(1, ok), 1 << 20);
  expect(() => pool.allocate(1 << 24)).toThrow(RhizomeError);
  await expect(pool.run("clear", {} as never, { scratch: 1 << 24 })).rejects.toMatchObject({
    code: "memory-full",
  });
  await expect(pool.run("clear", {} as never)).resolves.toBe("clear");
});

test("what there is no room for beside others waits until they are done", async () => {
  let at = 0;
  let most = 0;
  const pool = new Pool(
    fakeHost(2, (c, reply) => {
      most = Math.max(most, ++at);
      setTimeout(() => {
        at--;
        ok(c, reply);
      }, 30);
    }),
    1 << 20,
  );
  const big = Array.from({ length: 4 }, () => pool.run("clear", {} as never, { scratch: 1e6 }));
  await expect(Promise.all(big)).resolves.toHaveLength(4);
  expect(most).toBe(1);
  expect(pool.arena.inUse).toBe(0);
});
