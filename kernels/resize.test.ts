import { heap, noise, worst } from "../tests/forKernels";

test.each([1, 3, 4, 7, 64])("weighted sum of three rows of %i samples", (n) => {
  const mark = heap.mark();
  const width = n + 5;
  const rows = noise(width * 3, -2, 2);
  const weights = Float32Array.from([0.25, -0.5, 1.25]);
  const to = heap.alloc(n * 4 + 16);
  heap.k.weightedRows(heap.put(rows), width * 4, n, heap.put(weights), 3, to);
  const expected = Float32Array.from({ length: n }, (_, x) =>
    weights.reduce((sum, weight, j) => sum + weight * rows[j * width + x]!, 0),
  );
  expect(worst(heap.f32(to, n), expected)).toBeLessThan(1e-5);
  heap.release(mark);
});

test("a row at other places, each of taps of its own", () => {
  const mark = heap.mark();
  const [n, taps] = [23, 5];
  const row = noise(60, 0, 1);
  const starts = Int32Array.from({ length: n }, (_, i) => (i * 7) % 55);
  const weights = noise(n * taps, -1, 1);
  const places = heap.alloc(n * 4 + 16);
  new Int32Array(heap.u8(places, n * 4).buffer, places, n).set(starts);
  const to = heap.alloc(n * 4 + 16);
  heap.k.resizeAcross(heap.put(row), places, heap.put(weights), taps, n, to);
  const expected = Float32Array.from({ length: n }, (_, i) => {
    let sum = 0;
    for (let j = 0; j < taps; j++) sum += row[starts[i]! + j]! * weights[i * taps + j]!;
    return sum;
  });
  expect(worst(heap.f32(to, n), expected)).toBeLessThan(1e-5);
  heap.release(mark);
});

test.each([1, 2, 5])("groups of %i pixels are added to what is there", (by) => {
  const mark = heap.mark();
  const n = 9;
  const row = noise(n * by * 4, 0, 1);
  const before = noise(n * 4, 0, 1);
  const to = heap.put(before);
  heap.k.addGroups(heap.put(row), by, n, to);
  const expected = before.map((value, i) => {
    let sum = value;
    for (let j = 0; j < by; j++) sum += row[((i >> 2) * by + j) * 4 + (i & 3)]!;
    return sum;
  });
  expect(worst(heap.f32(to, n * 4), expected)).toBeLessThan(1e-5);
  heap.release(mark);
});
