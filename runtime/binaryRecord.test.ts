import { readRecord, writeRecord } from "./binaryRecord";

const value = {
  name: "row",
  none: undefined,
  list: [1, undefined, NaN, -Infinity, 0.1],
  nested: { flags: [true, null], map: Uint8Array.of(1, 2, 3), light: Float32Array.of(0.5, -1e-30) },
  wide: Float64Array.of(Math.PI),
};

test("plain data comes back as it was, typed arrays, undefined and what is no number included", () => {
  expect(readRecord(writeRecord(value))).toEqual(value);
});

test("arrays are copies: what is done to them later does not reach the bytes", () => {
  const bytes = writeRecord(value);
  const first = readRecord(bytes) as typeof value;
  first.nested.map[0] = 99;
  expect((readRecord(bytes) as typeof value).nested.map[0]).toBe(1);
});

test("cut short anywhere or of another kind, it is an error and no value", () => {
  const bytes = writeRecord(value);
  for (let n = 0; n < bytes.length - 8; n += 7)
    expect(() => readRecord(bytes.subarray(0, n))).toThrow();
  expect(() =>
    readRecord(new TextEncoder().encode("nothing of the kind, but long enough")),
  ).toThrow();
});
