import { jest } from "@jest/globals";
import { Pool } from "./pool";
import type { Call, Reply } from "./serve";
import type { Host } from "./worker";

type Behaviour = (call: Call, reply: (r: Reply) => void) => void;

/** Workers that behave as told, one after another as they are started; the last one for all after. */
function hostOf(
  threads: number,
  ...behaviours: Behaviour[]
): Host & { started: number; ended: number } {
  const host = {
    threads,
    started: 0,
    ended: 0,
    memory: {} as WebAssembly.Memory,
    spawn() {
      const behave = behaviours[Math.min(host.started, behaviours.length - 1)]!;
      host.started++;
      let answer: (r: Reply) => void = () => undefined;
      let alive = true;
      return {
        post: (message: { kind: string }) => {
          if (message.kind === "call" && alive)
            behave(message as Call, (reply) => alive && answer(reply));
        },
        onReply: (listener: (r: Reply) => void) => {
          answer = listener;
        },
        onLost: () => undefined,
        close: () => {
          alive = false;
          host.ended++;
          return Promise.resolve();
        },
      };
    },
  };
  return host;
}
const works: Behaviour = (call, reply) => {
  reply({ id: call.id, begun: true });
  setTimeout(() => reply({ id: call.id, ok: true, result: "done" }), 5);
};
const loops: Behaviour = (call, reply) => reply({ id: call.id, begun: true });
const isSilent: Behaviour = () => undefined;
const codeOf = (p: Promise<unknown>): Promise<unknown> =>
  p.then(
    () => "done",
    (e: { code: string }) => e.code,
  );

beforeEach(() => {
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
});

test("a task that never ends is given up by the name of its file, and the rest goes on", async () => {
  const host = hostOf(1, loops, works);
  const pool = new Pool(host);
  const bad = pool.run("clear", {} as never, { subject: "BAD.exr", allowanceMs: 4000 });
  const good = pool.run("clear", {} as never);
  const failed = expect(bad).rejects.toMatchObject({
    code: "too-slow",
    message: expect.stringContaining("BAD.exr") as unknown,
  });
  await jest.advanceTimersByTimeAsync(3000);
  expect(host.ended).toBe(0);
  await jest.advanceTimersByTimeAsync(2000);
  await failed;
  await expect(good).resolves.toBe("done");
  expect([host.started, host.ended]).toEqual([2, 1]);
  expect(pool.arena.inUse).toBe(0);
});

test("a worker that does not even begin is replaced and its task done by another; twice, it is named", async () => {
  const host = hostOf(1, isSilent, works);
  const pool = new Pool(host);
  const first = codeOf(pool.run("clear", {} as never));
  await jest.advanceTimersByTimeAsync(120000);
  expect(await first).toBe("done");
  expect(host.started).toBe(2);
  const never = new Pool(hostOf(1, isSilent));
  const second = codeOf(never.run("clear", {} as never));
  await jest.advanceTimersByTimeAsync(300000);
  expect(await second).toBe("worker-lost");
  expect(never.arena.inUse).toBe(0);
});

test("a stop refuses the result at once, and ends a worker that goes on within 200 ms; its memory is then free", async () => {
  const host = hostOf(1, loops, works);
  const pool = new Pool(host);
  const stopper = new AbortController();
  const { result, ended } = pool.start("clear", {} as never, { signal: stopper.signal });
  const code = codeOf(result);
  let over = false;
  void ended.then(() => (over = true));
  await jest.advanceTimersByTimeAsync(50);
  stopper.abort();
  expect(await code).toBe("stopped");
  expect(over).toBe(false);
  await jest.advanceTimersByTimeAsync(200);
  expect([over, host.ended]).toEqual([true, 1]);
  expect(pool.arena.inUse).toBe(0);
  const next = codeOf(pool.run("clear", {} as never));
  await jest.advanceTimersByTimeAsync(20);
  expect(await next).toBe("done");
});

test("a worker that is done soon after a stop is kept", async () => {
  const host = hostOf(1, works);
  const pool = new Pool(host);
  const stopper = new AbortController();
  const { result, ended } = pool.start("clear", {} as never, { signal: stopper.signal });
  const code = codeOf(result);
  stopper.abort();
  await jest.advanceTimersByTimeAsync(500);
  await ended;
  expect(await code).toBe("stopped");
  expect([host.started, host.ended]).toEqual([1, 0]);
});
