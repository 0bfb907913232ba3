import { invert, multiply, project, type Matrix3 } from "../math/matrix3";
import { pose } from "../../simulate/camera";
import { normal, random } from "../math/random";
import { joinLinks, type RunLink } from "./joinLinks";

const W = 720;
const H = 480;
const SIZE = { width: W, height: H };
const N = 15;
const MIDDLE = 7;

/**
 * A run's ways from its middle frame: breathing of 3 %, and a hand that shifts, rolls and sways
 * towards the subject and back.
 */
function run(seed: number, hand: { shift: number; roll: number; growth: number }): number[][] {
  const rnd = random(seed);
  const some = (v: number): number => (rnd() * 2 - 1) * v;
  return Array.from({ length: N }, (_, k) =>
    k === MIDDLE
      ? [1, 0, 0, 0, 1, 0, 0, 0, 1]
      : pose(
          W,
          H,
          some(hand.roll),
          some(hand.shift),
          some(hand.shift),
          0.03 * ((k - MIDDLE) / N) + some(hand.growth),
        ),
  );
}
/** How the links see it, each off by px at random; the longer ones by more. */
function linksOf(ways: readonly Matrix3[], px: readonly [number, number], seed: number): RunLink[] {
  const gauss = normal(random(seed));
  const out: RunLink[] = [];
  for (const [length, off] of [
    [1, px[0]],
    [2, px[1]],
  ] as const)
    for (let k = 0; k + length < ways.length; k++)
      for (const [from, to] of [
        [k, k + length],
        [k + length, k],
      ] as const) {
        const noise = [1 + (gauss() * off) / 250, 0, 0, 0, 1, 0, 0, 0, 1];
        const turn = (gauss() * off) / 250;
        noise[4] = noise[0]!;
        noise[1] = -turn;
        noise[3] = turn;
        noise[2] = gauss() * off - (noise[0]! - 1) * (W / 2) + turn * (H / 2);
        noise[5] = gauss() * off - (noise[4]! - 1) * (H / 2) - turn * (W / 2);
        out.push({
          from,
          to,
          transform: multiply(noise, multiply(ways[to]!, invert(ways[from]!))),
        });
      }
  return out;
}
/** The chain of neighbours outwards from the middle. */
function chainOf(links: readonly RunLink[]): number[][] {
  const step = (from: number, to: number): Matrix3 =>
    links.find((l) => l.from === from && l.to === to)!.transform;
  const ways = Array.from({ length: N }, () => [1, 0, 0, 0, 1, 0, 0, 0, 1]);
  for (let k = MIDDLE + 1; k < N; k++) ways[k] = multiply(step(k - 1, k), ways[k - 1]!);
  for (let k = MIDDLE - 1; k >= 0; k--) ways[k] = multiply(step(k + 1, k), ways[k + 1]!);
  return ways;
}
/** Mean px by which frames are off over the picture, or by a way of telling of one's own. */
const off = (found: readonly Matrix3[], truth: readonly Matrix3[]): number =>
  found.reduce((sum, m, k) => {
    let s = 0;
    let n = 0;
    for (const x of [60, 240, 480, 660])
      for (const y of [60, 240, 420]) {
        const p = project(m, x, y);
        const q = project(truth[k]!, x, y);
        s += (p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2;
        n++;
      }
    return sum + Math.sqrt(s / n);
  }, 0) / found.length;
const growth = (m: Matrix3): number => Math.sqrt(m[0]! * m[4]! - m[1]! * m[3]!);

test("a run is known better by all its links than by the chain of neighbours, and its middle frame stays", () => {
  let chained = 0;
  let joined = 0;
  for (let seed = 1; seed <= 8; seed++) {
    const truth = run(seed, { shift: 15, roll: 1, growth: 0.004 });
    const links = linksOf(truth, [0.05, 0.07], seed + 100);
    const chain = chainOf(links);
    const found = joinLinks(chain, MIDDLE, links, SIZE);
    expect(found[MIDDLE]).toEqual(chain[MIDDLE]);
    chained += off(chain, truth);
    joined += off(found, truth);
  }
  expect(joined).toBeLessThan(0.75 * chained);
});

test("links that err more count less: where longer ones are poor, the run stays as good as its neighbours tell", () => {
  let chained = 0;
  let joined = 0;
  for (let seed = 1; seed <= 8; seed++) {
    const truth = run(seed, { shift: 15, roll: 1, growth: 0.004 });
    const links = linksOf(truth, [0.03, 0.5], seed + 200);
    const chain = chainOf(links);
    chained += off(chain, truth);
    joined += off(joinLinks(chain, MIDDLE, links, SIZE), truth);
  }
  expect(joined).toBeLessThan(chained);
});

test("one neighbour that went astray is overruled by the links about it", () => {
  const truth = run(3, { shift: 10, roll: 0.5, growth: 0 });
  const links = linksOf(truth, [0.02, 0.03], 7).map((l) =>
    l.from === 9 && l.to === 10
      ? { ...l, transform: multiply([1, 0, 6, 0, 1, -4, 0, 0, 1], l.transform) }
      : l,
  );
  const chain = chainOf(links);
  expect(off(chain, truth)).toBeGreaterThan(2);
  expect(off(joinLinks(chain, MIDDLE, links, SIZE), truth)).toBeLessThan(0.15);
});

test("a lens's even breathing is smoothed along the run; what a hand adds, and a step twice as wide, stay", () => {
  const jitter = (ways: readonly Matrix3[], truth: readonly Matrix3[]): number =>
    Math.sqrt(
      ways.reduce(
        (s, m, k) =>
          s +
          (k
            ? growth(multiply(m, invert(ways[k - 1]!))) -
              growth(multiply(truth[k]!, invert(truth[k - 1]!)))
            : 0) **
            2,
        0,
      ) / N,
    ) *
    (W / 2);
  let alone = 0;
  let smoothed = 0;
  for (let seed = 1; seed <= 8; seed++) {
    const truth = run(seed, { shift: 15, roll: 1, growth: 0 });
    const links = linksOf(truth, [0.2, 0.4], seed + 300);
    const chain = chainOf(links);
    alone += jitter(chain, truth);
    smoothed += jitter(joinLinks(chain, MIDDLE, links, SIZE), truth);
  }
  expect(smoothed).toBeLessThan(0.5 * alone);
  const swaying = run(5, { shift: 15, roll: 1, growth: 0.02 });
  const seen = linksOf(swaying, [0.02, 0.03], 8);
  expect(jitter(joinLinks(chainOf(seen), MIDDLE, seen, SIZE), swaying)).toBeLessThan(0.05);
  // the lens was turned on twice as far after the tenth frame
  const jumped = run(6, { shift: 5, roll: 0.3, growth: 0 }).map((m, k) =>
    k > 10 ? multiply([1.01, 0, 0, 0, 1.01, 0, 0, 0, 1], m) : m,
  );
  const jumps = linksOf(jumped, [0.02, 0.03], 9);
  expect(jitter(joinLinks(chainOf(jumps), MIDDLE, jumps, SIZE), jumped)).toBeLessThan(0.05);
});

test("perspective is joined as well as shift alone, and two frames are enough", () => {
  const tilted = run(2, { shift: 8, roll: 0.5, growth: 0 }).map((m, k) =>
    multiply([1, 0, 0, 0, 1, 0, (k - MIDDLE) * 1e-6, -(k - MIDDLE) * 2e-6, 1], m),
  );
  const links = linksOf(tilted, [0, 0], 1);
  expect(off(joinLinks(chainOf(links), MIDDLE, links, SIZE), tilted)).toBeLessThan(0.01);
  const shifted = Array.from({ length: N }, (_, k): number[] => [
    1,
    0,
    (k - MIDDLE) * 2.5,
    0,
    1,
    (k - MIDDLE) ** 2 * 0.3,
    0,
    0,
    1,
  ]);
  const plain = linksOf(shifted, [0, 0], 1);
  const found = joinLinks(chainOf(plain), MIDDLE, plain, SIZE);
  found.forEach((m, k) => m.forEach((v, c) => expect(v).toBeCloseTo(shifted[k]![c]!, 6)));
  const pair = joinLinks(
    [
      [1, 0, 0, 0, 1, 0, 0, 0, 1],
      [1, 0, 3.1, 0, 1, 0, 0, 0, 1],
    ],
    0,
    [
      { from: 0, to: 1, transform: [1, 0, 3.1, 0, 1, 0, 0, 0, 1] },
      { from: 1, to: 0, transform: [1, 0, -2.9, 0, 1, 0, 0, 0, 1] },
    ],
    SIZE,
  );
  expect(pair[1]![2]).toBeCloseTo(3, 2);
});
