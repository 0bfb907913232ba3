import { litScene, type LitScene } from "../../tests/litScene";
import { random } from "../math/random";
import { applyRepair, changedBy, readBy } from "./applyRepair";
import type { Repair } from "./repair";

const W = 240;
const H = 160;

const repairOf = (more: Partial<Repair>): Repair => ({
  kind: "heal",
  shape: { type: "spot", x: 0.5, y: 0.5, radius: 12 / W },
  softness: 0.3,
  on: true,
  ...more,
});
const apply = ({ heap, rows, size }: LitScene, repair: Repair) =>
  applyRepair(heap, rows, repair, size);
const isIn = (x: number, y: number, radius = 12): boolean =>
  Math.hypot(x + 0.5 - W / 2, y + 0.5 - H / 2) < radius;

/** Lays something over the spot in the middle. */
function spoil({ planes }: LitScene, light: number): void {
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++)
      if (isIn(x, y)) for (const plane of planes.colours) plane[i] = light;
}

/** The largest error in the spot against what the scene was, in stops. */
function worstError({ planes }: LitScene, truth: (x: number, y: number) => number): number {
  let worst = 0;
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++)
      if (isIn(x, y))
        worst = Math.max(worst, Math.abs(Math.log2(planes.colours[1][i]! / truth(x, y))));
  return worst;
}

test.each([0, 0.001, 1e4])("a slope of light is healed under a spot of %p", (spot) => {
  const light = (x: number, y: number): number => 2 ** (x / 40 - y / 60);
  const scene = litScene(W, H, (x, y) => [0.5 * light(x, y), light(x, y), 2 * light(x, y)]);
  spoil(scene, spot);
  apply(scene, repairOf({}));
  expect(worstError(scene, light)).toBeLessThan(0.02);
});

test("an edge goes on through a healed place", () => {
  const light = (x: number, y: number): number => (x + 0.4 * y > 150 ? 0.8 : 0.05);
  const scene = litScene(W, H, (x, y) => Array(3).fill(light(x, y)) as [number, number, number]);
  spoil(scene, 3);
  apply(scene, repairOf({}));
  let wrong = 0;
  let all = 0;
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++)
      if (isIn(x, y)) {
        all++;
        if (Math.abs(Math.log2(scene.planes.colours[0][i]! / light(x, y))) > 0.5) wrong++;
      }
  expect(wrong / all).toBeLessThan(0.06);
});

test("grain stays grain where it is healed", () => {
  const rnd = random(5);
  const scene = litScene(W, H, () => {
    const value = 0.2 * (1 + 0.2 * (rnd() - 0.5));
    return [value, value, value];
  });
  spoil(scene, 2);
  apply(scene, repairOf({}));
  const spread = (within: boolean): number => {
    const values = [...scene.planes.colours[0]].filter(
      (_, i) => isIn(i % W, Math.floor(i / W), 11) === within,
    );
    const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
    return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length);
  };
  expect(spread(true) / spread(false)).toBeGreaterThan(0.4);
  expect(spread(true) / spread(false)).toBeLessThan(1.3);
});

test("a long stroke over stripes leaves the stripes", () => {
  const light = (x: number, y: number): number => (Math.floor((x + 3 * y) / 12) % 2 ? 0.5 : 0.1);
  const scene = litScene(W, H, (x, y) => Array(3).fill(light(x, y)) as [number, number, number]);
  const onLine = (y: number): boolean => Math.abs(y + 0.5 - H / 2) < 3;
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++)
      if (onLine(y) && x > 40 && x < 200)
        for (const plane of scene.planes.colours) plane[i] = 0.001;
  const points = [
    [40 / W, 0.5],
    [200 / W, 0.5],
  ] as const;
  apply(scene, repairOf({ shape: { type: "stroke", points, radius: 4 / W } }));
  let wrong = 0;
  let all = 0;
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++)
      if (onLine(y) && x > 40 && x < 200) {
        all++;
        if (Math.abs(Math.log2(scene.planes.colours[0][i]! / light(x, y))) > 1) wrong++;
      }
  expect(wrong / all).toBeLessThan(0.15);
});

test("a clone is the chosen place to the bit within its soft border", () => {
  const rnd = random(8);
  const scene = litScene(W, H, () => [rnd(), rnd(), rnd()]);
  const before = scene.planes.colours.map((plane) => plane.slice());
  const source = { dx: -60 / W, dy: 20 / H };
  expect(apply(scene, repairOf({ kind: "clone", source, softness: 0.2 }))).toEqual(source);
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++) {
      if (isIn(x, y, 9)) expect(scene.planes.colours[2][i]).toBe(before[2]![(y + 20) * W + x - 60]);
      if (!isIn(x, y, 13)) expect(scene.planes.colours[2][i]).toBe(before[2]![i]);
    }
});

test("a fill is made of what lies round it, or of what was chosen", () => {
  const scene = () => litScene(W, H, (x) => (x < 60 ? [0.9, 0.1, 0.1] : [0.1, 0.1, 0.9]));
  const middleRed = (source?: Repair["source"]): number => {
    const filled = scene();
    spoil(filled, 5);
    apply(filled, repairOf({ kind: "fill", source }));
    return filled.planes.colours[0][(H / 2) * W + W / 2]!;
  };
  expect(middleRed()).toBeCloseTo(0.1, 2);
  expect(middleRed({ dx: -90 / W, dy: 0 })).toBeGreaterThan(0.5);
});

test.each(["heal", "clone", "fill"] as const)(
  "%s changes nothing outside of what it says, at borders and over what is empty too",
  (kind) => {
    const rnd = random(3);
    for (const [x, y] of [
      [0, 0],
      [1, 0.5],
      [0.02, 0.98],
      [0.5, 0.5],
    ] as const) {
      const scene = litScene(W, H, () => [rnd() * 3, rnd(), 0]);
      scene.planes.weight.fill(0, 0, 40 * W);
      const before = scene.planes.colours.map((plane) => plane.slice());
      const repair = repairOf({ kind, shape: { type: "spot", x, y, radius: 14 / W } });
      apply(scene, repair);
      const region = changedBy(repair, scene.size);
      for (let v = 0, i = 0; v < H; v++)
        for (let u = 0; u < W; u++, i++)
          for (let c = 0; c < 3; c++) {
            const now = scene.planes.colours[c]![i]!;
            const within =
              u >= region.x &&
              v >= region.y &&
              u < region.x + region.width &&
              v < region.y + region.height;
            if (!Number.isFinite(now) || now < 0) throw new Error(`${now} at ${u}, ${v}`);
            if (!within && now !== before[c]![i]) throw new Error(`changed at ${u}, ${v}`);
          }
    }
  },
);

test("black, a scene of nothing and a spot beyond the picture come to no harm", () => {
  for (const kind of ["heal", "clone", "fill"] as const) {
    const black = litScene(64, 64, () => [0, 0, 0]);
    apply(black, repairOf({ kind }));
    expect([...black.planes.colours[0]].every((value) => value === 0)).toBe(true);
    const empty = litScene(64, 64, () => [1, 1, 1]);
    empty.planes.weight.fill(0);
    apply(empty, repairOf({ kind }));
    expect([...empty.planes.colours[0]].every(Number.isFinite)).toBe(true);
    const shape = { type: "spot", x: 1.1, y: -0.1, radius: 0.01 } as const;
    apply(
      litScene(64, 64, () => [1, 1, 1]),
      repairOf({ kind, shape }),
    );
  }
});

test("a window of what a repair reads gives the bytes of the whole", () => {
  const rnd = random(12);
  const light = Array.from({ length: W * H * 3 }, () => 0.1 + rnd());
  const whole = litScene(W, H, (x, y) => {
    const at = (y * W + x) * 3;
    return [light[at]!, light[at + 1]!, light[at + 2]!];
  });
  for (const kind of ["heal", "clone", "fill"] as const) {
    const repair = repairOf({ kind, shape: { type: "spot", x: 0.4, y: 0.5, radius: 5 / W } });
    const region = readBy(repair, whole.size);
    const part = litScene(region.width, region.height, (x, y) => {
      const at = whole.planes.indexOf(region.x + x, region.y + y);
      return whole.planes.colours.map((plane) => plane[at]!) as [number, number, number];
    });
    const rows = { ...part.rows, x: region.x, y: region.y };
    applyRepair(part.heap, rows, repair, whole.size);
    apply(whole, repair);
    for (let y = 0, i = 0; y < region.height; y++)
      for (let x = 0; x < region.width; x++, i++)
        expect(part.planes.colours[0][i]).toBe(
          whole.planes.colours[0][whole.planes.indexOf(region.x + x, region.y + y)],
        );
  }
});

test.each(["heal", "fill"] as const)("%s leaves no step on a slope of light", (kind) => {
  const light = (x: number, y: number): number => 0.2 * 2 ** (x / 90 + y / 120);
  const scene = litScene(W, H, (x, y) => [light(x, y), light(x, y), light(x, y)]);
  spoil(scene, 4);
  apply(scene, repairOf({ kind }));
  expect(worstError(scene, light)).toBeLessThan(kind === "heal" ? 0.02 : 0.25);
  // just inside and just outside are as bright
  let step = 0;
  let count = 0;
  for (let angle = 0; angle < 2 * Math.PI; angle += 0.1) {
    const at = (radius: number): number => {
      const x = Math.round(W / 2 + radius * Math.cos(angle));
      const y = Math.round(H / 2 + radius * Math.sin(angle));
      return Math.log2(scene.planes.colours[0][y * W + x]! / light(x, y));
    };
    step += Math.abs(at(9) - at(16));
    count++;
  }
  expect(step / count).toBeLessThan(0.08);
});

test("a repair at half the size is the repair at full size made smaller", () => {
  const rnd = random(21);
  const grain = Array.from({ length: W * H }, () => 1 + 0.3 * (rnd() - 0.5));
  const light = (x: number, y: number): number =>
    (x + 0.4 * y > 160 ? 0.8 : 0.1) * (1 + 0.3 * Math.sin(x / 9)) * grain[(y >> 2) * W + (x >> 2)]!;
  const full = litScene(W, H, (x, y) => [light(x, y), light(x, y), light(x, y)]);
  const half = litScene(W / 2, H / 2, (x, y) => {
    const mean =
      [0, 1]
        .flatMap((v) => [0, 1].map((u) => light(2 * x + u, 2 * y + v)))
        .reduce((a, b) => a + b) / 4;
    return [mean, mean, mean];
  });
  const repair = repairOf({ source: { dx: -40 / W, dy: 20 / H } });
  apply(full, repair);
  apply(half, repair);
  let squares = 0;
  let count = 0;
  for (let y = 0, i = 0; y < H / 2; y++)
    for (let x = 0; x < W / 2; x++, i++) {
      if (!isIn(2 * x + 0.5, 2 * y + 0.5)) continue;
      const at = 2 * y * W + 2 * x;
      const [plane] = full.planes.colours;
      const mean = (plane[at]! + plane[at + 1]! + plane[at + W]! + plane[at + W + 1]!) / 4;
      squares += (Math.sqrt(mean) - Math.sqrt(half.planes.colours[0][i]!)) ** 2;
      count++;
    }
  expect(-10 * Math.log10(squares / count)).toBeGreaterThan(30);
});

test.each([
  [
    "a long stroke",
    {
      shape: {
        type: "stroke",
        points: [
          [0.02, 0.3],
          [0.98, 0.7],
        ],
        radius: 0.004,
      },
    },
  ],
  [
    "a far source",
    { source: { dx: 0.4, dy: 0.3 }, shape: { type: "spot", x: 0.3, y: 0.3, radius: 0.01 } },
  ],
] as const)(
  "a fill by %s in a large picture changes nothing outside of what it says",
  (_, more) => {
    const rnd = random(6);
    const scene = litScene(1300, 400, () => [0.2 + rnd(), 0.2 + rnd(), 0.2]);
    const before = scene.planes.colours[0].slice();
    const repair = repairOf({ kind: "fill", ...(more as unknown as Partial<Repair>) });
    apply(scene, repair);
    const { x, y, width, height } = changedBy(repair, scene.size);
    let outside = 0;
    before.forEach((value, i) => {
      const u = i % 1300;
      const v = Math.floor(i / 1300);
      const within = u >= x && v >= y && u < x + width && v < y + height;
      if (!within && value !== scene.planes.colours[0][i]) outside++;
    });
    expect(outside).toBe(0);
  },
);
