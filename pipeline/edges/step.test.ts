import { commonArea, edgesStep, emptyShare, type EdgesSettings } from "./step";

const settings = (part: Partial<EdgesSettings>): EdgesSettings => ({
  ...edgesStep.settings.defaults,
  ...part,
});
const picture = { width: 1200, height: 800 };
/** A picture of which the left tenth and a corner are empty. */
const covered = (() => {
  const width = 120;
  const height = 80;
  const of = new Uint8Array(width * height).fill(1);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if (x < 12 || (x > 90 && y < 30)) of[y * width + x] = 0;
  return { width, height, of };
})();
const run = (part: Partial<EdgesSettings>) =>
  edgesStep.run(settings(part), picture, covered, false);

test("a crop of any ratio holds nothing that is empty, and has that ratio to the pixel", () => {
  for (const ratio of ["free", "1:1", "3:2", "2:3", "16:9", "2.35:1", "20:1"]) {
    const r = run({ ratio });
    const [w, h] = ratio.split(":").map(Number);
    expect(emptyShare(r, picture, covered)).toBe(0);
    if (h)
      expect(
        Math.abs(r.width - (r.height * w!) / h) < 1 || Math.abs(r.height - (r.width * h) / w!) < 1,
      ).toBe(true);
    expect(Math.min(r.x, r.y, 1200 - r.x - r.width, 800 - r.y - r.height)).toBeGreaterThanOrEqual(
      0,
    );
  }
  // a square is bound by the height below the corner or the width beside it, less a cell at each
  // border
  expect(run({ ratio: "1:1" }).height).toBeGreaterThanOrEqual(760);
});

test("a part chosen manually is kept as it is, whatever the borders, and what of it is empty is reported", () => {
  const part: EdgesSettings["part"] = [0.05, 0.1, 0.5, 0.5];
  for (const mode of ["keep", "crop", "extend", "rectangle"] as const)
    expect(run({ mode, part })).toEqual({ x: 60, y: 80, width: 600, height: 400 });
  expect(run({ part, ratio: "1:1" })).toEqual({ x: 160, y: 80, width: 400, height: 400 });
  expect(emptyShare(run({ part }), picture, covered)).toBeCloseTo(0.1, 2);
});

test("what bending leaves is cut off, kept or filled", () => {
  const whole = { x: 0, y: 0, ...picture };
  expect(run({ mode: "rectangle", amount: 0.4 })).toEqual(run({ mode: "crop" }));
  for (const rest of ["keep", "extend"] as const)
    expect(run({ mode: "rectangle", amount: 0.4, rest })).toEqual(whole);
  expect(run({ mode: "extend", ratio: "1:1" })).toEqual({ x: 200, y: 0, width: 800, height: 800 });
});

test("brackets and focus stacks are cropped within what all frames cover", () => {
  const frames = [
    [1, 0, 0, 0, 1, 0, 0, 0, 1],
    [1, 0, 30, 0, 1, -20, 0, 0, 1],
  ].map((fromReference) => ({ fromReference, used: true }));
  const area = commonArea(settings({}), { frames }, picture);
  expect(area.width * area.height).toBeLessThan(1200 * 800);
  const square = commonArea(settings({ ratio: "1:1" }), { frames }, picture);
  expect([square.width, square.height]).toEqual([area.height, area.height]);
  expect(square.x - area.x).toBeCloseTo((area.width - square.width) / 2, -0.4);
  expect(commonArea(settings({ part: [0, 0, 1, 1] }), { frames }, picture)).toEqual({
    x: 0,
    y: 0,
    width: 1200,
    height: 800,
  });
});
