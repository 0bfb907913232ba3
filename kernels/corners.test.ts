import { heap, noise } from "../tests/forKernels";

test.each([
  [6, 7],
  [11, 9],
  [40, 12],
])(
  "how much of a corner each px of a %i x %i plane is: the structure tensor of slopes held to a stop a px, weighed by the least confidence round about",
  (w, h) => {
    const n = w * h;
    const L = noise(n, -3, 3);
    const V = noise(n, 0, 1);
    const dst = heap.alloc(n * 4 + 16);
    const limited = (v: number): number => Math.max(-1, Math.min(1, v));
    heap.k.cornerStrength(heap.put(L), heap.put(V), w, h, heap.alloc(heap.k.cornerRoom(w)), dst);
    const within = (v: number, most: number): number => Math.max(0, Math.min(most - 1, v));
    const products = (x: number, y: number): number[] => {
      if (x < 1 || y < 1 || x > w - 2 || y > h - 2) return [0, 0, 0];
      const i = y * w + x;
      const a = limited((L[i + 1]! - L[i - 1]!) / 2);
      const b = limited((L[i + w]! - L[i - w]!) / 2);
      const v = Math.min(V[i]!, V[i - 1]!, V[i + 1]!, V[i - w]!, V[i + w]!);
      return [a * a * v, a * b * v, b * b * v];
    };
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const sums = [0, 0, 0];
        for (let j = -3; j <= 3; j++)
          for (let i = -3; i <= 3; i++)
            products(within(x + i, w), within(y + j, h)).forEach((p, k) => {
              sums[k]! += (p * [3, 3, 2, 1][Math.abs(i)]! * [3, 3, 2, 1][Math.abs(j)]!) / 225;
            });
        expect(heap.f32(dst, n)[y * w + x]).toBeCloseTo(
          Math.max(0, sums[0]! * sums[2]! - sums[1]! ** 2) / (sums[0]! + sums[2]! + 1e-6),
          4,
        );
      }
  },
);

test.each([
  [9, 8, 1],
  [30, 21, 3],
  [13, 5, 4],
])("places of a %i x %i plane above all round them, %i px from its sides", (w, h, rim) => {
  const plane = noise(w * h);
  const at = heap.alloc(w * h * 4);
  const expected: number[] = [];
  for (let y = rim; y < h - rim; y++)
    for (let x = rim; x < w - rim; x++) {
      const around = [-1, 0, 1].flatMap((v) =>
        [-1, 0, 1].filter((u) => u || v).map((u) => plane[(y + v) * w + x + u]!),
      );
      const s = plane[y * w + x]!;
      if (s >= 0.6 && around.every((v) => v < s)) expected.push(y * w + x);
    }
  const count = heap.k.peaks(heap.put(plane), w, h, rim, 0.6, at);
  expect([...heap.i32(at, count)]).toEqual(expected);
  // of a plateau none stands out
  expect(heap.k.peaks(heap.put(new Float32Array(w * h).fill(1)), w, h, rim, 0.6, at)).toBe(0);
});

test("how far the nearest clearly stronger place is, as far as is looked", () => {
  const n = 400;
  const w = 300;
  const h = 200;
  const size = 12;
  const places = Array.from(
    { length: n },
    () => [noise(1, 0, w)[0]!, noise(1, 0, h)[0]!, noise(1)[0]!] as const,
  ).sort((a, b) => b[2] - a[2]);
  const away = heap.alloc(n * 4);
  heap.k.distancesToStronger(
    heap.put(places.flat()),
    n,
    w,
    h,
    size,
    heap.alloc((n + 26 * 18) * 4),
    away,
  );
  places.forEach(([x, y, s], i) => {
    const nearest = Math.sqrt(
      Math.min(
        ...places.map(([u, v, t]) => (t * 0.9 > s ? (u - x) ** 2 + (v - y) ** 2 : Infinity)),
      ),
    );
    const found = Math.sqrt(heap.f32(away, n)[i]!);
    // what lies within so far is seen whole; further off a nearer one may hide in a bucket that is
    // not looked into
    if (nearest < 2 * size) expect(found).toBeCloseTo(nearest, 3);
    else expect(found).toBeGreaterThanOrEqual(nearest - 1e-3);
  });
});

test("a corner's description: the same, turned with the picture and whatever its contrast; none where all is even", () => {
  const w = 80;
  const h = 80;
  const size = 64;
  const room = heap.alloc(heap.k.descriptionRoom());
  const picture = (turn: number, gain: number): number =>
    heap.put(
      Float32Array.from({ length: w * h }, (_, i) => {
        const x = (i % w) - 40;
        const y = Math.floor(i / w) - 40;
        const u = Math.cos(turn) * x + Math.sin(turn) * y;
        const v = Math.cos(turn) * y - Math.sin(turn) * x;
        return gain * (Math.sin(u / 6 + 0.4) + 0.5 * Math.cos(v / 5 + u / 9));
      }),
    );
  const of = (turn: number, gain: number): Float32Array => {
    const dst = heap.alloc(size * 4);
    expect(heap.k.describeCorner(picture(turn, gain), w, h, 40, 40, 1, 0, 1, room, dst)).toBe(1);
    return heap.f32(dst, size).slice();
  };
  const first = of(0, 1);
  const likeness = (b: Float32Array): number => first.reduce((s, v, i) => s + v * b[i]!, 0);
  expect(first.reduce((s, v) => s + v, 0)).toBeCloseTo(0, 5);
  expect(likeness(first)).toBeCloseTo(1, 5);
  expect(likeness(of(0, 0.3))).toBeCloseTo(1, 4);
  for (const turn of [0.3, 1.7, 3]) expect(likeness(of(turn, 1))).toBeGreaterThan(0.98);
  expect(
    heap.k.describeCorner(
      heap.put(new Float32Array(w * h).fill(2)),
      w,
      h,
      40,
      40,
      1,
      0,
      1,
      room,
      heap.alloc(size * 4),
    ),
  ).toBe(0);
});
