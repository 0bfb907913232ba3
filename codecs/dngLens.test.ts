import { writeDng } from "../tests/files/dng";
import { readDngLens } from "./dngLens";

const opcode = (id: number, data: number[]): number[] => [
  ...u32(id),
  1,
  3,
  0,
  0,
  ...u32(0),
  ...u32(data.length),
  ...data,
];
const u32 = (v: number): number[] => [v >>> 24, (v >> 16) & 255, (v >> 8) & 255, v & 255];
const doubles = (v: number[]): number[] =>
  v.flatMap((x) => {
    const d = new DataView(new ArrayBuffer(8));
    d.setFloat64(0, x);
    return [...new Uint8Array(d.buffer)];
  });
/** The way from straight to bent that k of ideal = r (1 + k r^2) goes, as a series. */
const series = (k: number, scale = 1): number[] =>
  [1, -k, 3 * k * k, -12 * k ** 3].map((c) => c * scale);
const warp = (planes: number[][]): number[] =>
  opcode(1, [
    ...u32(planes.length),
    ...doubles(planes.flatMap((p) => [...p, 0, 0])),
    ...doubles([0.5, 0.5]),
  ]);
const gain = (v: number): number[] =>
  opcode(3, doubles([v, v ** 2, v ** 3, v ** 4, v ** 5, 0.5, 0.5]));
const file = (...all: number[][]): Uint8Array =>
  writeDng({
    width: 8,
    height: 8,
    samples: new Uint16Array(64),
    bayer: true,
    opcodes: [...u32(all.length), ...all.flat()],
  });

test.each([0.06, -0.04])(
  "a warp that bends by %d, red drawn larger and blue smaller, corners that lack three tenths",
  (k) => {
    const lens = readDngLens(
      file(
        opcode(9, [1, 2, 3, 4]),
        warp([series(k, 1.0008), series(k), series(k, 0.9995)]),
        gain(0.3),
      ),
    )!;
    expect(lens.distortion).toBeCloseTo(k, 2);
    expect(lens.fringeRed).toBeCloseTo(8, 3);
    expect(lens.fringeBlue).toBeCloseTo(-5, 3);
    expect(lens.vignetting).toBeCloseTo(0.3, 2);
  },
);

test("one plane bends all colours alike; a file without opcodes, another kind of file, and numbers that are none say nothing", () => {
  expect(readDngLens(file(warp([series(0.05)])))).toEqual({
    distortion: expect.closeTo(0.05, 2) as number,
  });
  expect(
    readDngLens(writeDng({ width: 8, height: 8, samples: new Uint16Array(64), bayer: true })),
  ).toBeUndefined();
  expect(readDngLens(Uint8Array.of(0xff, 0xd8, 0xff, 0xe0))).toBeUndefined();
  expect(readDngLens(file(warp([[NaN, 0, 0, 0]])))).toBeUndefined();
});

test("a lens beyond what frames can be prepared for is held there", () => {
  expect(readDngLens(file(gain(0.97)))!.vignetting).toBeLessThanOrEqual(0.9);
});

test("cut anywhere, and with any byte changed, it never throws", () => {
  const whole = file(warp([series(0.05), series(0.05), series(0.05)]), gain(0.2));
  for (let n = 0; n < whole.length; n += 3) readDngLens(whole.subarray(0, n));
  for (let i = 0; i < whole.length; i++) {
    const b = whole.slice();
    b[i] = b[i]! ^ 0xff;
    readDngLens(b);
  }
});
