import { random } from "../math/random";
import { PairStatistics, type Member } from "./pairStatistics";
import { joinFloor } from "./joinFloor";
import { makeSignature } from "./signature";
import type { Segment } from "./segments";

const W = 192;
const H = 128;
/**
 * Ten frames of two rows over one land, and one of another place; each with its colour against
 * green.
 */
function day(
  o: { pause?: number; after?: number; red?: number; exposure?: number; focal?: number } = {},
): { e: PairStatistics; order: number[] } {
  const land = (seed: number, left: number, top: number, red: number) => {
    const samples = new Float32Array(W * H * 3);
    const rnd = random(seed);
    const grid = Float32Array.from({ length: 200 * 60 }, () => rnd());
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const u = (left + x) / 9;
        const v = (top + y) / 9;
        const i = Math.floor(v) * 200 + Math.floor(u);
        const a = u % 1;
        const b = v % 1;
        const light =
          0.08 +
          0.5 *
            ((grid[i]! * (1 - a) + grid[i + 1]! * a) * (1 - b) +
              (grid[i + 200]! * (1 - a) + grid[i + 201]! * a) * b);
        samples.set([light * red, light, light * 0.9], (y * W + x) * 3);
      }
    return makeSignature({ samples, width: W, height: H, lut: new Float32Array(0) });
  };
  const at = [
    ...[0, 1, 2, 3, 4].map((k) => [k * 90, 0]),
    ...[4, 3, 2, 1, 0].map((k) => [k * 90, 72]),
  ] as [number, number][];
  const signatures = [
    ...at.map(([x, y]) => land(1, x, y, 1.3)),
    land(2, 0, 0, o.red ?? 1.3),
    land(3, 0, 0, 1.3),
  ];
  const members = signatures.map((signature, i): Member => ({
    key: String(i),
    signature,
    info: {
      name: `F_${i}.jpg`,
      format: "jpeg",
      width: W * 10,
      height: H * 10,
      depth: 8,
      profile: "sRGB",
      exif: {
        exposureTime: (1 / 60) * (i === 10 ? (o.exposure ?? 1) : 1),
        aperture: 8,
        iso: 100,
        focalLength: i === 10 ? (o.focal ?? 90) : 90,
        focalLength35: 135,
        camera: "C",
        takenAt: i < 10 ? i * 2 : 18 + (o.pause ?? 20) + (i === 11 ? (o.after ?? 120) : 0),
      },
    },
  }));
  return { e: new PairStatistics(members), order: members.map((_, i) => i) };
}
const SEGMENTS: Segment[] = [
  { kind: "panorama", from: 0, to: 10 },
  { kind: "single", from: 10, to: 11 },
  { kind: "single", from: 11, to: 12 },
];
const joined = (o?: Parameters<typeof day>[0], segments = SEGMENTS): number[] => {
  const { e, order } = day(o);
  return joinFloor(e, order, segments).map((s) => s.to - s.from);
};

test("a lone frame after a panorama of two rows, of its colours and settings, is taken for its floor", () => {
  expect(joined()).toEqual([11, 1]);
});

test.each([
  ["later", { pause: 200 }],
  ["nearer to what comes after it", { pause: 40, after: 5 }],
  ["of another colour", { red: 0.6 }],
  ["of another exposure", { exposure: 4 }],
  ["through another lens", { focal: 50 }],
])("one that is %s is not", (_, o) => {
  expect(joined(o)).toEqual([10, 1, 1]);
});

test("a single row has no floor to show, and what is left alone stays as it was given", () => {
  const { e, order } = day();
  const given: Segment[] = [
    { kind: "single", from: 0, to: 1 },
    { kind: "panorama", from: 1, to: 5 },
    { kind: "single", from: 10, to: 11 },
  ];
  expect(joinFloor(e, order, given)).toEqual(given);
});
