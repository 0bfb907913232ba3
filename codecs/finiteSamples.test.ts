import { makeFinite } from "./finiteSamples";

test("what is infinite becomes the brightest there is, what is missing black; finite samples stay", () => {
  expect([...makeFinite(Float32Array.of(0, 1e-30, -0.5, 4, Infinity, NaN, -Infinity, 2))]).toEqual([
    0,
    Float32Array.of(1e-30)[0]!,
    -0.5,
    4,
    4,
    0,
    0,
    2,
  ]);
});

test("a file of nothing but infinity is white, and none is left that could overflow", () => {
  expect([...makeFinite(Float32Array.of(Infinity, NaN, 1e38))]).toEqual([1, 0, 1]);
});
