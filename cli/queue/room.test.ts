import { random } from "../../core/math/random";
import { Room } from "./room";

test("never gives more than there is, and lets everybody in, in the order of coming", async () => {
  const rnd = random(5);
  const room = new Room(1000);
  let taken = 0;
  let most = 0;
  const entered: number[] = [];
  await Promise.all(
    Array.from({ length: 200 }, async (_, k) => {
      const bytes = Math.ceil(rnd() * 600);
      await room.enter(bytes);
      entered.push(k);
      taken += bytes;
      most = Math.max(most, taken);
      await new Promise((resolve) => setImmediate(resolve));
      taken -= bytes;
      room.leave(bytes);
    }),
  );
  expect(most).toBeLessThanOrEqual(1000);
  expect(entered).toEqual([...entered].sort((a, b) => a - b));
  expect(room.free).toBe(1000);
});

test("what takes more than there is goes alone", async () => {
  const room = new Room(1000);
  expect(room.tryEnter(300)).toBe(true);
  const alone = room.enter(5000);
  expect(room.isWaitedFor).toBe(true);
  // nobody overtakes it
  expect(room.tryEnter(100)).toBe(false);
  room.leave(300);
  await alone;
  expect(room.free).toBe(0);
  room.leave(5000);
  expect(room.free).toBe(1000);
});

test("who is stopped while waiting leaves the way to the next one", async () => {
  const room = new Room(1000);
  room.tryEnter(600);
  const stopper = new AbortController();
  const large = room.enter(900, stopper.signal);
  const small = room.enter(400);
  stopper.abort(new Error("stopped"));
  await expect(large).rejects.toThrow("stopped");
  await small;
  expect(room.free).toBe(0);
});
