import { RhizomeError } from "../../core/error";
import {
  deliveryOf,
  forgetDone,
  moveBefore,
  moveJob,
  pause,
  startJob,
  tray,
  tryAgain,
} from "./jobs";

const gate = () => {
  let open: () => void = () => undefined;
  const p = new Promise<void>((ok) => {
    open = ok;
  });
  return { p, open };
};
const states = (): string =>
  tray
    .getState()
    .jobs.map((j) => `${j.title}:${j.state}`)
    .join(" ");
afterEach(() => {
  pause(false);
  forgetDone();
});

test("jobs run one after the other; those that wait change places; a pause holds them", async () => {
  const a = gate();
  const order: string[] = [];
  const add = (name: string, wait = Promise.resolve()) =>
    startJob(name, async () => {
      order.push(name);
      await wait;
      return undefined;
    });
  const all = [add("a", a.p), add("b"), add("c")];
  expect(states()).toBe("a:running b:waiting c:waiting");
  const [, b, c] = tray.getState().jobs;
  moveBefore(c!.id, b!.id);
  expect(states()).toBe("a:running c:waiting b:waiting");
  moveJob(c!.id, 1);
  moveJob(c!.id, 1);
  expect(states()).toBe("a:running b:waiting c:waiting");
  moveJob(c!.id, -1);
  pause(true);
  a.open();
  await all[0];
  expect(states()).toBe("a:done c:waiting b:waiting");
  pause(false);
  await Promise.all(all);
  expect(order).toEqual(["a", "c", "b"]);
});

test("a delivery goes before merges that wait, after deliveries that do, and what runs is let end", async () => {
  const a = gate();
  const order: string[] = [];
  const add = (title: string, kind: "merge" | "delivery", wait = Promise.resolve()) =>
    startJob(
      title,
      async () => {
        order.push(title);
        await wait;
        return undefined;
      },
      { kind, about: "stack" },
    );
  const all = [
    add("merge 1", "merge", a.p),
    add("merge 2", "merge"),
    add("merge 3", "merge"),
    add("deliver 1", "delivery"),
    add("deliver 2", "delivery"),
  ];
  expect(deliveryOf(tray.getState(), "stack")).toMatchObject({
    title: "deliver 2",
    state: "waiting",
  });
  expect(deliveryOf(tray.getState(), "another")).toBeUndefined();
  a.open();
  await Promise.all(all);
  expect(order).toEqual(["merge 1", "deliver 1", "deliver 2", "merge 2", "merge 3"]);
});

test("a stopped job is stopped whether it waits or runs, and the next one goes on", async () => {
  const a = gate();
  const running = startJob("a", async (_, signal) => {
    await a.p;
    if (signal.aborted) throw new RhizomeError("stopped", "", "");
    return undefined;
  });
  const waiting = startJob("b", async () => {
    throw new Error("never");
  });
  const last = startJob("c", async () => "fine");
  const [ja, jb] = tray.getState().jobs;
  jb!.stop();
  ja!.stop();
  a.open();
  await Promise.all([running, waiting, last]);
  expect(states()).toBe("a:stopped b:stopped c:done");
  expect(tray.getState().jobs[2]!.note).toBe("fine");
});

test("a failed job says why and can be taken up again", async () => {
  let tries = 0;
  await startJob(
    "a",
    async () => {
      if (!tries++) throw new RhizomeError("damaged", "a.jpg is damaged.", "copy it again");
      return undefined;
    },
    { about: "stack" },
  );
  expect(tray.getState().jobs[0]).toMatchObject({
    state: "failed",
    about: "stack",
    error: { code: "damaged" },
  });
  tryAgain(tray.getState().jobs[0]!.id);
  await new Promise((r) => setTimeout(r));
  expect(states()).toBe("a:done");
});
