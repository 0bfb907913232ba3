import { IDENTITY, multiply, project } from "../../core/math/matrix3";
import { random } from "../../core/math/random";
import { rowsBehind, shifted } from "./band";

const size = { width: 900, height: 600 };
/** Small turns, shifts, growth and keystone, as a hand or a tripod head makes them. */
function motion(seed: number): number[] {
  const rnd = random(seed);
  const r = (s: number): number => (rnd() - 0.5) * 2 * s;
  const a = r(0.03);
  const k = 1 + r(0.02);
  return multiply(
    [1, 0, r(40), 0, 1, r(40), r(2e-5), r(2e-5), 1],
    [k * Math.cos(a), -k * Math.sin(a), 0, k * Math.sin(a), k * Math.cos(a), 0, 0, 0, 1],
  );
}

test("the rows read for a band hold everything that its pixels are sampled from", () => {
  for (let seed = 1; seed <= 40; seed++)
    for (const [y0, y1] of [
      [0, 128],
      [256, 400],
      [512, 600],
    ] as const) {
      const m = motion(seed);
      const [from, to] = rowsBehind({ y0, y1 }, m, size);
      expect([from % 16, from >= 0, to <= size.height, to > from]).toEqual([0, true, true, true]);
      for (let x = 0; x <= size.width; x += 30)
        for (const y of [y0 + 0.5, (y0 + y1) / 2, y1 - 0.5]) {
          const v = project(m, x, y)[1];
          // four taps, and what is eroded round clipped ones
          for (const row of [v - 4, v + 4])
            if (row >= 0 && row < size.height) expect(row >= from && row <= to).toBe(true);
        }
    }
});

test("a frame that was not moved is read as it lies, and one that lies elsewhere is still read in some rows", () => {
  expect(rowsBehind({ y0: 128, y1: 256 }, IDENTITY, size)).toEqual([128, 256]);
  for (const away of [2000, -2000]) {
    const [from, to] = rowsBehind({ y0: 0, y1: 128 }, [1, 0, 0, 0, 1, away, 0, 0, 1], size);
    expect(from >= 0 && to <= size.height && to > from).toBe(true);
  }
});

test("a mapping between parts leads to the same places", () => {
  const m = motion(7);
  const part = shifted(m, 120, 96);
  const [x, y] = project(m, 333.5, 150.5);
  const [u, v] = project(part, 333.5, 30.5);
  expect([u, v + 96]).toEqual([expect.closeTo(x, 8), expect.closeTo(y, 8)]);
  expect(shifted(IDENTITY, 48, 48)).toEqual([...IDENTITY]);
});
