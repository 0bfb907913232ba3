import { expectedMs, withTaken, type Pace, type Task } from "./pace";

const task: Task = {
  kind: "panorama",
  method: "radiance",
  format: "jpg",
  frames: 7,
  framePx: 7 * 24e6,
  prepared: false,
  outPx: 60e6,
};

test("more frames, more pixels and corrections take longer", () => {
  const base = expectedMs(task, {});
  for (const more of [
    { frames: 12 },
    { framePx: 9 * 24e6 },
    { outPx: 90e6 },
    { prepared: true },
    { format: "png" as const },
  ])
    expect(expectedMs({ ...task, ...more }, {})).toBeGreaterThan(base);
});

test("what like deliveries took is what is expected next, one odd one aside", () => {
  const plain = expectedMs(task, {});
  let pace: Pace = {};
  for (const by of [2, 2.1, 9, 1.9, 2]) pace = withTaken(pace, task, plain * by);
  expect(expectedMs(task, pace) / plain).toBeCloseTo(2, 6);
  // a kind that was never delivered goes by the machine
  expect(
    expectedMs({ ...task, kind: "focus", method: "mixed" }, pace) /
      expectedMs({ ...task, kind: "focus", method: "mixed" }, {}),
  ).toBeCloseTo(2, 6);
  for (let i = 0; i < 5; i++) pace = withTaken(pace, task, plain);
  expect(expectedMs(task, pace)).toBeCloseTo(plain, 6);
});
