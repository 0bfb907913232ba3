import { defaultRecipe } from "./recipe/recipe";
import type { StackFrame } from "./work";
import { bandRows, deliveryBytes } from "./memory";

const stack = (n: number, width: number, height: number): StackFrame[] =>
  Array.from({ length: n }, (_, i) => ({
    id: `${i}`,
    content: `${i}`,
    source: { name: `${i}.jpg` },
    info: { name: `${i}.jpg`, format: "jpeg", width, height, depth: 8, profile: "sRGB", exif: {} },
  }));
const GIB = 2 ** 30;

test.each(["bracket", "focus"] as const)(
  "a %s is planned to take more the larger it is, and never more than is allowed, where it goes in bands",
  (kind) => {
    const r = defaultRecipe(kind);
    const small = deliveryBytes(2 * GIB, stack(3, 1500, 1000), r);
    const large = deliveryBytes(2 * GIB, stack(3, 4500, 3000), r);
    expect(large).toBeGreaterThan(small + 4500 * 3000 * 16);
    expect(bandRows(2 * GIB, stack(3, 4500, 3000), r)).toBeUndefined();
    expect(deliveryBytes(2 * GIB, stack(3, 12000, 8000), r)).toBe(2 * GIB);
    expect(bandRows(2 * GIB, stack(3, 12000, 8000), r)).toBeGreaterThan(0);
  },
);

test("a panorama of 200 MP takes no more than one that is joined whole, but for its file", () => {
  const r = defaultRecipe("panorama");
  const frames = stack(26, 6000, 4000);
  const of = (width: number, height: number): number =>
    deliveryBytes(2 * GIB, frames, r, { width, height });
  expect(of(20000, 10000) - of(8800, 5000)).toBeLessThan((20000 * 10000 - 8800 * 5000) * 3);
  expect(of(20000, 10000)).toBeLessThan(2.2 * GIB);
  expect(of(4000, 2000)).toBeLessThan(of(8000, 4000));
});
