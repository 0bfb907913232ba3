import {
  applySoftProof,
  EXCESS_SCALE,
  OUTSIDE_FROM,
  SOFT_PROOF_SIDE,
  type SoftProofTable,
} from "./softProof";
import { random } from "../math/random";

type Rgb = readonly [number, number, number];
const LAST = SOFT_PROOF_SIDE - 1;

/** A table of what a function makes of each node's colour, 0 to 1. */
function tableOf(shown: (rgb: Rgb) => Rgb, missed: (rgb: Rgb) => number): SoftProofTable {
  const table = new Uint8Array(SOFT_PROOF_SIDE ** 3 * 4);
  let at = 0;
  for (let r = 0; r <= LAST; r++)
    for (let g = 0; g <= LAST; g++)
      for (let b = 0; b <= LAST; b++) {
        const rgb = [r / LAST, g / LAST, b / LAST] as const;
        table.set(
          shown(rgb).map((v) => Math.round(v * 255)),
          at,
        );
        table[at + 3] = missed(rgb) * EXCESS_SCALE;
        at += 4;
      }
  return table;
}

function randomPixels(count: number): Uint8Array {
  const rnd = random(3);
  return Uint8Array.from({ length: count * 4 }, (_, i) =>
    i % 4 === 3 ? 255 : Math.floor(rnd() * 256),
  );
}
const LIES = { x: 0, y: 0, width: 100 };

test("a paper that shows every colour changes none, but for rounding", () => {
  const pixels = randomPixels(5000);
  const before = pixels.slice();
  const table = tableOf(
    (rgb) => rgb,
    () => 0,
  );
  expect(applySoftProof(pixels, table, LIES, true)).toBe(0);
  const most = pixels.reduce((worst, v, i) => Math.max(worst, Math.abs(v - before[i]!)), 0);
  expect(most).toBeLessThanOrEqual(1);
});

test("what is linear in the codes is exact between nodes, channels mixed included", () => {
  const pixels = randomPixels(5000);
  const before = pixels.slice();
  const mixed = ([r, g, b]: Rgb): Rgb => [(r + g) / 2, 0.1 + 0.7 * b, 0.2 * r + 0.3 * g + 0.5 * b];
  applySoftProof(
    pixels,
    tableOf(mixed, () => 0),
    LIES,
    false,
  );
  for (let at = 0; at < pixels.length; at += 4) {
    const [r, g, b] = [...before.subarray(at, at + 3)].map((v) => v / 255) as [
      number,
      number,
      number,
    ];
    mixed([r, g, b]).forEach((v, c) =>
      expect(Math.abs(pixels[at + c]! - v * 255)).toBeLessThan(1.6),
    );
    expect(pixels[at + 3]).toBe(255);
  }
});

test("greys stay grey through a table that keeps them", () => {
  const pixels = Uint8Array.from({ length: 256 * 4 }, (_, i) => (i % 4 === 3 ? 255 : i >> 2));
  // saturation halved, as a dull paper does
  const dull = ([r, g, b]: Rgb): Rgb => {
    const mean = (r + g + b) / 3;
    return [(r + mean) / 2, (g + mean) / 2, (b + mean) / 2];
  };
  applySoftProof(
    pixels,
    tableOf(dull, () => 0),
    LIES,
    false,
  );
  for (let at = 0; at < pixels.length; at += 4) {
    expect(pixels[at]).toBe(pixels[at + 1]);
    expect(pixels[at]).toBe(pixels[at + 2]);
  }
});

test("what the paper cannot show is counted, and striped only where that is asked", () => {
  // all that is more red than half
  const table = tableOf(
    (rgb) => rgb,
    ([r]) => (r > 0.5 ? 2 * OUTSIDE_FROM : 0),
  );
  const count = 64 * 64;
  const half = (): Uint8Array =>
    Uint8Array.from({ length: count * 4 }, (_, i) => (i >> 2 < count / 4 ? 250 : 30));
  const plain = half();
  const marked = half();
  const lies = { x: 0, y: 0, width: 64 };
  expect(applySoftProof(plain, table, lies, false)).toBe(count / 4);
  expect(applySoftProof(marked, table, lies, true)).toBe(count / 4);
  const changed = Array.from({ length: count }, (_, i) => marked[i * 4] !== plain[i * 4]);
  const striped = changed.filter(Boolean).length;
  expect(striped).toBeGreaterThan(count / 4 / 8);
  expect(striped).toBeLessThan(count / 8);
  expect(changed.slice(count / 4).some(Boolean)).toBe(false);
});

test("stripes stay where they are in the picture when a part of it is shown", () => {
  const table = tableOf(
    (rgb) => rgb,
    () => 2 * OUTSIDE_FROM,
  );
  const all = new Uint8Array(40 * 40 * 4).fill(200);
  applySoftProof(all, table, { x: 0, y: 0, width: 40 }, true);
  const part = new Uint8Array(20 * 20 * 4).fill(200);
  applySoftProof(part, table, { x: 7, y: 13, width: 20 }, true);
  for (let y = 0; y < 20; y++)
    for (let x = 0; x < 20; x++)
      expect(part[(y * 20 + x) * 4]).toBe(all[((y + 13) * 40 + x + 7) * 4]);
});
