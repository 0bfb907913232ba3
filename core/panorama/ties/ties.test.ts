import type { Part } from "../seams/masks";
import { Heap } from "../../../kernels/heap";
import { multiply, transpose } from "../../math/matrix3";
import { lookingAt } from "../../../simulate/sweep";
import { normal, random } from "../../math/random";
import { seen, worldRay, type Camera } from "../camera";
import { degreesBetween } from "../../math/rotation";
import { findTie } from "./findTie";
import type { LogPlane } from "./tiePlane";
import type { Geometry, TiePair } from "../layout/geometry";
import { withTies, type TieEdits } from "./ties";

const W = 3000;
const H = 2000;
const frames = Array.from({ length: 4 }, () => ({ width: W, height: H }));
const truth: Camera[] = [0, 30, 60, 90].map((yaw, i) => ({
  rotation: lookingAt(yaw, i - 1, 0.5 * i),
  focalPx: 2600,
  distortion: [0, 0, 0],
  width: W,
  height: H,
}));
const rnd = random(4);
const gauss = normal(rnd);
const NONE: TieEdits = { added: [], dropped: [], hidden: [], lines: [] };

/** Ties of two frames, off by some px of noise. */
function tiesOf(a: number, b: number, count: number, noise = 0.3): TiePair["points"] {
  const out: TiePair["points"] = [];
  while (out.length < count) {
    const x = rnd() * W;
    const y = rnd() * H;
    const p = seen(truth[b]!, worldRay(truth[a]!, x, y));
    if (p && p[0] > 0 && p[1] > 0 && p[0] < W && p[1] < H)
      out.push([x, y, p[0] + gauss() * noise, p[1] + gauss() * noise]);
  }
  return out;
}
const geometry = (
  pairs: [number, number, TiePair["points"]][],
  missing: number[] = [],
): Geometry => ({
  cameras: truth.map((c, i) => (missing.includes(i) ? undefined : c)),
  rmsPx: [0, 0, 0, 0],
  leftOut: missing,
  warnings: [],
  pairs: pairs.map(([a, b, points]) => ({ a, b, points, errors: points.map(() => 0) })),
});
const between = (g: Geometry, a: number, b: number): number[] =>
  multiply(transpose(g.cameras[a]!.rotation), g.cameras[b]!.rotation);
const off = (g: Geometry, a: number, b: number): number =>
  degreesBetween(between(g, a, b), between(geometry([]), a, b));
const inShares = ([ax, ay, bx, by]: TiePair["points"][number]): {
  from: [number, number];
  to: [number, number];
} => ({ from: [ax / W, ay / H], to: [bx / W, by / H] });

test("a frame that was left out takes its place by three ties set manually, whichever frame they name first", () => {
  const before = geometry(
    [
      [0, 1, tiesOf(0, 1, 40)],
      [1, 2, tiesOf(1, 2, 40)],
    ],
    [3],
  );
  const after = withTies(frames, before, {
    ...NONE,
    added: tiesOf(2, 3, 3).map((p) => {
      const { from, to } = inShares(p);
      return { a: 3, b: 2, from: to, to: from };
    }),
  });
  expect(after.leftOut).toEqual([]);
  expect(after.warnings).toEqual([]);
  expect(off(after, 2, 3)).toBeLessThan(0.1);
  expect(after.pairs.find((p) => p.a === 2 && p.b === 3)!.points).toHaveLength(3);
});

test("one tie places no frame", () => {
  const after = withTies(
    frames,
    geometry(
      [
        [0, 1, tiesOf(0, 1, 40)],
        [1, 2, tiesOf(1, 2, 40)],
      ],
      [3],
    ),
    { ...NONE, added: [{ a: 2, b: 3, ...inShares(tiesOf(2, 3, 1)[0]!) }] },
  );
  expect(after.leftOut).toEqual([3]);
  expect(after.warnings[0]!.code).toBe("left-out");
});

test("wrong ties that are removed, or hidden, no longer pull", () => {
  const good = tiesOf(0, 1, 14);
  const wrong = tiesOf(0, 1, 12).map(([ax, ay, bx, by]): TiePair["points"][number] => [
    Math.min(W, ax),
    ay,
    bx + 60,
    by + 25,
  ]);
  const before = geometry([
    [0, 1, [...good, ...wrong]],
    [1, 2, tiesOf(1, 2, 40)],
    [2, 3, tiesOf(2, 3, 40)],
  ]);
  const pulled = withTies(frames, before, NONE);
  const struck = withTies(frames, before, {
    ...NONE,
    dropped: wrong.map((p) => ({ a: 0, b: 1, from: inShares(p).from })),
  });
  expect(off(pulled, 0, 1)).toBeGreaterThan(0.1);
  expect(off(struck, 0, 1)).toBeLessThan(0.05);
  expect(struck.pairs.find((p) => p.a === 0 && p.b === 1)!.points).toHaveLength(14);
  const rings = wrong.map((p): Part => {
    const [x, y] = inShares(p).from;
    return {
      shape: "outline",
      radius: 0,
      points: [
        [x - 0.001, y - 0.001],
        [x + 0.001, y - 0.001],
        [x + 0.001, y + 0.001],
        [x - 0.001, y + 0.001],
      ],
    };
  });
  expect(
    off(withTies(frames, before, { ...NONE, hidden: [rings, [], [], []] }), 0, 1),
  ).toBeLessThan(0.05);
});

test("a frame whose ties are all removed falls out, and the larger group stays", () => {
  const last = tiesOf(2, 3, 20);
  const after = withTies(
    frames,
    geometry([
      [0, 1, tiesOf(0, 1, 40)],
      [1, 2, tiesOf(1, 2, 40)],
      [2, 3, last],
    ]),
    { ...NONE, dropped: last.map((p) => ({ a: 2, b: 3, from: inShares(p).from })) },
  );
  expect(after.leftOut).toEqual([3]);
  expect(off(after, 0, 2)).toBeLessThan(0.1);
});

describe("a place pointed at", () => {
  const w = 160;
  const h = 120;
  const heap = Heap.local(8e6);
  const waves = Array.from(
    { length: 24 },
    () => [rnd() * 0.5, rnd() * 0.5, rnd() * 6, 0.3 + rnd()] as const,
  );
  const plane = (dx: number, dy: number, lift: number): LogPlane => {
    const log = heap.put(
      Float32Array.from(
        { length: w * h },
        (_, i) =>
          lift +
          waves.reduce(
            (s, [fx, fy, at, high]) =>
              s + high * Math.sin(fx * ((i % w) - dx) + fy * (Math.floor(i / w) - dy) + at),
            0,
          ),
      ),
    );
    const confidence = heap.put(new Float32Array(w * h).fill(1));
    return { log, confidence, w, h };
  };
  const A = plane(0, 0, 0);
  const B = plane(7.3, -4.6, 1.5);

  test("is found within a tenth of a pixel, though it was missed by ten and is exposed otherwise", () => {
    const found = findTie(heap, A, B, undefined, 4, [
      80 * 4,
      60 * 4,
      (87.3 + 8) * 4,
      (55.4 - 6) * 4,
    ])!;
    expect(Math.abs(found[2] - found[0] - 7.3 * 4)).toBeLessThan(0.4);
    expect(Math.abs(found[3] - found[1] + 4.6 * 4)).toBeLessThan(0.4);
  });

  test("is not made up where nothing fits", () => {
    const blank: LogPlane = {
      log: heap.put(Float32Array.from({ length: w * h }, () => gauss())),
      confidence: B.confidence,
      w,
      h,
    };
    expect(findTie(heap, A, blank, undefined, 4, [320, 240, 340, 220])).toBeUndefined();
    expect(findTie(heap, A, B, undefined, 4, [2, 2, 30, 10])).toBeUndefined();
  });
});

describe("where no frame has found its place", () => {
  const none: Geometry = {
    cameras: truth.map(() => undefined),
    rmsPx: [0, 0, 0, 0],
    leftOut: [0, 1, 2, 3],
    pairs: [],
    warnings: [],
  };
  const stated = frames.map((f) => ({ ...f, focalPx: 2600 }));
  const by = (a: number, b: number, count: number, noise?: number) =>
    tiesOf(a, b, count, noise).map((p) => ({ a, b, ...inShares(p) }));
  test("two ties hold two frames, and those of a chain hold all", () => {
    const two = withTies(stated, none, {
      ...NONE,
      added: [
        [2700, 300],
        [2300, 1700],
      ].map(([x, y]) => ({
        a: 1,
        b: 2,
        ...inShares([x!, y!, ...seen(truth[2]!, worldRay(truth[1]!, x!, y!))!]),
      })),
    });
    const all = withTies(stated, none, {
      ...NONE,
      added: [...by(0, 1, 12), ...by(1, 2, 12), ...by(2, 3, 12)],
    });
    expect(two.leftOut).toEqual([0, 3]);
    expect(off(two, 1, 2)).toBeLessThan(0.05);
    expect(all.leftOut).toEqual([]);
    expect(off(all, 0, 3)).toBeLessThan(0.2);
  });
  test("the focal length is found where no file tells it", () => {
    const g = withTies(frames, none, {
      ...NONE,
      added: [...by(0, 1, 8), ...by(1, 2, 8), ...by(2, 3, 8)],
    });
    expect(g.leftOut).toEqual([]);
    expect(Math.abs(g.cameras[0]!.focalPx / 2600 - 1)).toBeLessThan(0.01);
  });
  test("one tie holds nothing", () => {
    expect(withTies(stated, none, { ...NONE, added: by(0, 1, 1) }).leftOut).toHaveLength(4);
  });
});
