import { fileSettings } from "../../pipeline/deliver/settings";
import { expectedBytes, type Weighed } from "./weight";

const weigh = (part: Partial<Weighed>, px = 12e6): number =>
  expectedBytes({ ...fileSettings.defaults, ...part }, px, {});

test("more pixels, more quality, more colour and more bits weigh more", () => {
  expect(weigh({}, 24e6)).toBeCloseTo(2 * weigh({}), 3);
  expect(weigh({ quality: 60 })).toBeLessThan(weigh({ quality: 95 }));
  expect(weigh({ chroma: "half" })).toBeLessThan(weigh({}));
  expect(weigh({ format: "tif", depth: "16" })).toBeGreaterThan(
    weigh({ format: "tif", depth: "8" }),
  );
  expect(weigh({ format: "tif", compression: "none" })).toBeGreaterThan(weigh({ format: "tif" }));
});

test("what like files weighed counts, and a limit is kept", () => {
  const settings = fileSettings.defaults;
  const plain = expectedBytes(settings, 1e6, {});
  expect(expectedBytes(settings, 1e6, { jpg: [2, 2.1, 1.9] })).toBeCloseTo(2 * plain);
  expect(expectedBytes({ ...settings, limit: 0.1 }, 1e9, {})).toBe(1e5);
});
