import { mixedShoot } from "../../simulate/mixedShoot";
import { scoreGrouping } from "../../simulate/scoreGrouping";
import { groupFrames } from "./groupFrames";

test("a mixed day of 300 frames: stacks and kinds, over a clock jump, lost frames and file numbers that begin again", () => {
  const shoot = mixedShoot(300, 41);
  const found = groupFrames(
    shoot.frames.map((f) => f.info),
    shoot.frames.map((f) => f.signature),
  );
  const score = scoreGrouping(shoot, found);
  process.stdout.write(
    `grouping with EXIF: ${(score.framesRight * 100).toFixed(1)} % of ${shoot.frames.length} frames, ${score.kindsRight} of ${score.stacks} kinds\n${score.wrong.map((w) => `  ${w}\n`).join("")}`,
  );
  expect(score.framesRight).toBeGreaterThanOrEqual(0.99);
  expect(score.kindsRight).toBe(score.stacks);
  expect(found.flatMap((s) => s.frames).sort((a, b) => a - b)).toEqual(
    shoot.frames.map((_, i) => i),
  );
  for (const border of shoot.borders)
    expect(found.find((s) => s.frames.includes(border))).toMatchObject({
      kind: "single",
      frames: [border],
    });
});

test("the same kind of day from pixels alone", () => {
  const shoot = mixedShoot(120, 42);
  const found = groupFrames(
    shoot.frames.map((f) => ({
      ...f.info,
      name: f.info.name.replace("jpg", "png"),
      format: "png",
      exif: {},
    })),
    shoot.frames.map((f) => f.signature),
  );
  const score = scoreGrouping(shoot, found);
  process.stdout.write(
    `grouping from pixels: ${(score.framesRight * 100).toFixed(1)} % of ${shoot.frames.length} frames, ${score.kindsRight} of ${score.stacks} kinds\n${score.wrong.map((w) => `  ${w}\n`).join("")}`,
  );
  expect(score.framesRight).toBeGreaterThanOrEqual(0.9);
});
