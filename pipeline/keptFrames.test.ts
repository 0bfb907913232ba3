import { inProcess } from "../tests/inProcess";
import { KeptFrames } from "./keptFrames";

const W = 40;
const H = 30;
const BYTES = W * H * 3;
const shot = (n: number) =>
  inProcess(
    Array.from({ length: n }, (_, i) => ({
      name: `k${i}.png`,
      samples: new Uint8Array(BYTES).fill(i + 1),
      width: W,
      height: H,
    })),
  );
/** The first sample of a held frame tells which one it is. */
const first = async (
  pool: ReturnType<typeof shot>["pool"],
  loaded: { ptr: number },
): Promise<number> => (await pool.read(loaded.ptr, 1))[0]!;

test("a frame that is asked for again is not read again, and the one asked for longest ago goes when there is no more room", async () => {
  const { pool, frames, reads } = shot(5);
  const kept = new KeptFrames(pool, frames, 1, undefined, 3 * BYTES);
  for (const i of [0, 1, 0, 2]) expect(await first(pool, await kept.read(i))).toBe(i + 1);
  expect(reads()).toBe(3);
  // the fourth makes frame 1 go, which was asked for before 0 was asked for again
  for (const i of [3, 0, 2]) expect(await first(pool, await kept.read(i))).toBe(i + 1);
  expect(reads()).toBe(4);
  expect(await first(pool, await kept.read(1))).toBe(2);
  expect(reads()).toBe(5);
  await kept.drop();
  expect(pool.arena.inUse).toBe(0);
});

test("the frame that is warped and the one read meanwhile stay, however little room there is", async () => {
  const { pool, frames, reads } = shot(3);
  const kept = new KeptFrames(pool, frames, 1, undefined, 1);
  await Promise.all([kept.read(0), kept.read(1)]);
  await kept.read(0);
  await kept.read(1);
  expect(reads()).toBe(2);
  await kept.read(2);
  await kept.read(1);
  expect(reads()).toBe(3);
  await kept.drop();
  expect(pool.arena.inUse).toBe(0);
});

test("frames are read ahead until there is no more room, or it is stopped", async () => {
  const { pool, frames, reads } = shot(6);
  const order = [4, 2, 0, 1];
  const kept = new KeptFrames(pool, frames, 1, undefined, 3.5 * BYTES);
  await kept.readAhead(order);
  expect(reads()).toBe(3);
  for (const i of order.slice(0, 3)) await kept.read(i);
  expect(reads()).toBe(3);
  await kept.drop();
  await kept.readAhead(order);
  expect(reads()).toBe(3);
  expect(pool.arena.inUse).toBe(0);
});

test("a frame that cannot be read fails when it is asked for, and the others are there", async () => {
  const { pool, frames } = shot(3);
  const broken = frames.map((f, i) => (i === 1 ? { ...f, source: { name: "gone.png" } } : f));
  const kept = new KeptFrames(pool, broken, 1);
  await kept.readAhead([0, 1, 2]);
  await expect(kept.read(1)).rejects.toThrow();
  for (const i of [0, 2]) expect(await first(pool, await kept.read(i))).toBe(i + 1);
  await kept.drop();
  expect(pool.arena.inUse).toBe(0);
});
