import { readMatrixProfile, writeProfile } from "../../codecs/icc";
import { apply, invert } from "../math/matrix3";
import { decode, encode, fromWorking, SPACE_IDS, SPACES, toWorking } from "./spaces";
import { AS_SHOT, balanceFromNeutral, whiteBalanceGains } from "./whiteBalance";

test.each(SPACE_IDS)(
  "%s: there and back, white stays white, and the profile says the same",
  (id) => {
    for (const v of [0, 0.001, 0.02, 0.5, 1])
      expect(decode(SPACES[id].curve, encode(SPACES[id].curve, v))).toBeCloseTo(v, 5);
    apply(toWorking(id), [1, 1, 1]).forEach((v) => expect(v).toBeCloseTo(1, 3));
    apply(fromWorking(id), apply(toWorking(id), [0.2, 0.5, 0.1])).forEach((v, i) =>
      expect(v).toBeCloseTo([0.2, 0.5, 0.1][i]!, 6),
    );
    const read = readMatrixProfile(writeProfile(id))!;
    expect(read.name).toContain(SPACES[id].name);
    for (const v of [0.01, 0.2, 0.7, 1])
      expect(read.curves[1]!(encode(SPACES[id].curve, v))).toBeCloseTo(v, 3);
    read.matrix.forEach((v, i) => expect(v).toBeCloseTo(toWorking(id)[i]!, 3));
  },
);

test("sRGB to XYZ is the standard's matrix", () => {
  [0.4124, 0.3576, 0.1805, 0.2126, 0.7152, 0.0722, 0.0193, 0.1192, 0.9505].forEach((v, i) =>
    expect(SPACES.srgb.toXyz[i]).toBeCloseTo(v, 3),
  );
});

test("a broken or table profile is not taken for a matrix one", () => {
  const good = writeProfile("srgb");
  for (const cut of [0, 50, 130, 200, 300])
    expect(readMatrixProfile(good.slice(0, cut))).toBeUndefined();
  for (let i = 128; i < good.length; i += 3) {
    const bad = good.slice();
    bad[i] = 255;
    expect(() => readMatrixProfile(bad)).not.toThrow();
  }
});

test("white balance: as shot changes nothing; a picked neutral becomes neutral", () => {
  whiteBalanceGains(AS_SHOT).forEach((g) => expect(g).toBeCloseTo(1, 6));
  const warm = whiteBalanceGains({ temperature: 9000, tint: 0 });
  expect(warm[0]).toBeGreaterThan(warm[2]);
  for (const rgb of [
    [0.5, 0.4, 0.25],
    [0.3, 0.34, 0.4],
    [0.2, 0.25, 0.2],
  ]) {
    const gains = whiteBalanceGains(balanceFromNeutral(rgb)!);
    const out = rgb.map((v, i) => v * gains[i]!);
    out.forEach((v) => expect(Math.abs(Math.log2(v / out[1]!))).toBeLessThan(0.02));
  }
  expect(balanceFromNeutral([0, 0.1, 0.1])).toBeUndefined();
});

test("inverse of a matrix", () => {
  expect(() => invert([1, 2, 3, 2, 4, 6, 0, 0, 1])).toThrow(RangeError);
});
