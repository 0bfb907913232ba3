import { heap, noise } from "../tests/forKernels";

test.each([[6, 5], [11, 7], [40, 9]])("the structure tensor of a %i x %i plane: slopes held to a stop a px, weighed by the least vote round about", (w, h) => {
  const n = w * h, L = noise(n, -3, 3), V = noise(n, 0, 1), planes = [0, 1, 2].map(() => heap.alloc(n * 4 + 16)) as [number, number, number], held = (v: number): number => Math.max(-1, Math.min(1, v));
  for (const p of planes) heap.f32(p, n).fill(5);
  heap.k.slopeProducts(heap.put(L), heap.put(V), w, h, ...planes);
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) {
    const i = y * w + x, inner = x > 0 && y > 0 && x < w - 1 && y < h - 1, a = held((L[i + 1]! - L[i - 1]!) / 2), b = held((L[i + w]! - L[i - w]!) / 2), v = Math.min(V[i]!, V[i - 1]!, V[i + 1]!, V[i - w]!, V[i + w]!);
    planes.forEach((p, k) => expect(heap.f32(p, n)[i]).toBeCloseTo(inner ? [a * a, a * b, b * b][k]! * v : 5, 5));
  }
});

test("how much of a corner a matrix makes: nothing for an edge, and never less than nothing", () => {
  const xx = Float32Array.of(1, 1, 2, 0, 1), xy = Float32Array.of(0, 1, 0.5, 0, 3), yy = Float32Array.of(1, 1, 1, 0, 1), dst = heap.alloc(64);
  heap.k.harmonicMeans(heap.put(xx), heap.put(xy), heap.put(yy), 5, dst);
  [0.5, 0, 1.75 / 3, 0, 0].forEach((v, i) => expect(heap.f32(dst, 5)[i]).toBeCloseTo(v, 5));
});

test.each([[9, 8, 1], [30, 21, 3], [13, 5, 4]])("places of a %i x %i plane above all round them, %i px from its sides", (w, h, rim) => {
  const plane = noise(w * h), at = heap.alloc(w * h * 4), expected: number[] = [];
  for (let y = rim; y < h - rim; y++) for (let x = rim; x < w - rim; x++) {
    const around = [-1, 0, 1].flatMap((v) => [-1, 0, 1].filter((u) => u || v).map((u) => plane[(y + v) * w + x + u]!)), s = plane[y * w + x]!;
    if (s >= 0.6 && around.every((v) => v < s)) expected.push(y * w + x);
  }
  const count = heap.k.peaks(heap.put(plane), w, h, rim, 0.6, at);
  expect([...heap.i32(at, count)]).toEqual(expected);
  // of a plateau none stands out
  expect(heap.k.peaks(heap.put(new Float32Array(w * h).fill(1)), w, h, rim, 0.6, at)).toBe(0);
});
