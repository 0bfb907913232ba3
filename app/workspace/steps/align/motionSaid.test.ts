import { motionSaid } from "./motionSaid";

const size = { width: 1000, height: 800 };
/** Grown about the picture's middle, turned and shifted. */
function frame(growth: number, degrees: number, shift: number) {
  const t = (degrees * Math.PI) / 180;
  const a = (1 + growth) * Math.cos(t);
  const b = (1 + growth) * Math.sin(t);
  return {
    fromReference: [a, -b, 500 - a * 500 + b * 400 + shift, b, a, 400 - b * 500 - a * 400, 0, 0, 1],
    movedPx: Math.hypot(500, 400) * Math.hypot(a - 1, b) + shift,
  };
}
const still = { fromReference: [1, 0, 0, 0, 1, 0, 0, 0, 1], movedPx: 0 };

test.each([
  ["nothing moved", [still, still], { by: "Tripod", how: "nothing moved" }],
  [
    "a lens that breathes on a tripod",
    [frame(-0.011, 0, 0.3), still, frame(0.008, 0.02, 0.2)],
    { by: "Tripod", how: "grown by up to 1.1 %" },
  ],
  [
    "a hand that rolled",
    [still, frame(0.001, 0.4, 0)],
    { by: "Hand-held", how: "moved up to 4.5 px" },
  ],
  ["a hand that shifted", [frame(0, 0, 6), still], { by: "Hand-held", how: "moved up to 6.0 px" }],
] as const)("%s is said so", (_what, frames, said) => {
  expect(motionSaid(frames, size)).toEqual(said);
});
