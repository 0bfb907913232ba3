import { random } from "../math/random";
import { detailNumbers, lightnessOf, pictureNumbers } from "./pictureNumbers";

const W = 64;
const H = 48;
const picture = (of: (x: number, y: number) => readonly number[]): Uint8ClampedArray => {
  const out = new Uint8ClampedArray(W * H * 4);
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i += 4) out.set([...of(x, y), 255], i);
  return out;
};
const gaussian = (rnd: () => number): number =>
  Math.sqrt(-2 * Math.log(1 - rnd())) * Math.cos(2 * Math.PI * rnd());

test("both ends, mean, contrast and colour are what the picture has", () => {
  const half = pictureNumbers(picture((x) => (x < W / 2 ? [255, 255, 255] : [0, 0, 0])));
  expect(half).toMatchObject({ white: 0.5, black: 0.5, colour: 0 });
  expect(half.mean).toBeCloseTo(0.5, 9);
  expect(half.contrast).toBeCloseTo(0.5, 9);
  const red = pictureNumbers(picture(() => [200, 100, 100]));
  expect(red.colour).toBeCloseTo(100 / 255, 9);
  expect(red).toMatchObject({ white: 0, black: 0 });
});

test.each([1, 3, 8])(
  "noise of %p steps in the darks is measured, whatever slope lies under it",
  (sigma) => {
    const rnd = random(7);
    const noisy = picture((x, y) => {
      const value = 36 + x / 8 + y / 12 + sigma * gaussian(rnd);
      return [value, value, value];
    });
    const { darkDb } = detailNumbers(lightnessOf(noisy), W, H);
    expect(Math.abs(darkDb! - 20 * Math.log10(42 / sigma))).toBeLessThan(1.5);
  },
);

test("a picture without darks says nothing of their noise, and a sharper one says so", () => {
  const stripes = (soft: number) =>
    picture((x) => {
      const value = 160 + 60 * Math.tanh(Math.sin(x / 3) / soft);
      return [value, value, value];
    });
  const sharp = detailNumbers(lightnessOf(stripes(0.05)), W, H);
  const soft = detailNumbers(lightnessOf(stripes(5)), W, H);
  expect(sharp.darkDb).toBeUndefined();
  expect(sharp.sharpness).toBeGreaterThan(2 * soft.sharpness);
});
