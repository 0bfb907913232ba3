import { raiseHighlights } from "./raiseHighlights";

const HEADROOM = 2.5;
/** A room of mid-tones lifted by 2 EV, and windows of which toning took up to 6 EV. */
const light = Float32Array.from({ length: 900 }, (_, i) => -8 + i / 100);
const toned = light.map((ev) => (ev < -4 ? ev + 2 : -2 + (ev + 4) * 0.35));

function raised(target: Float32Array, headroom = HEADROOM): Float32Array {
  const out = target.slice();
  raiseHighlights(out, light, headroom);
  return out;
}

test("mid-tones stay, highlights are raised by no more than the headroom, in their order", () => {
  const out = raised(toned);
  for (const [i, ev] of out.entries()) {
    if (toned[i]! <= -2.5) expect(ev).toBe(toned[i]);
    expect(ev - toned[i]!).toBeGreaterThanOrEqual(0);
    expect(ev - toned[i]!).toBeLessThanOrEqual(HEADROOM);
    if (i) expect(ev).toBeGreaterThanOrEqual(out[i - 1]!);
  }
  expect(out.at(-1)! - toned.at(-1)!).toBeGreaterThan(1);
});

test("what is as bright in the picture and brighter in the scene is raised more", () => {
  const room = Float32Array.from({ length: 50 }, () => -3);
  const target = Float32Array.of(...room.map((ev) => ev + 1), -0.5, -0.5);
  raiseHighlights(target, Float32Array.of(...room, 1, 3), HEADROOM);
  expect(target.at(-1)!).toBeGreaterThan(target.at(-2)! + 0.3);
});

test("a picture whose light was not changed, and one without light, stay as they are", () => {
  expect(raised(light)).toEqual(light);
  const black = new Float32Array(9).fill(-40);
  raiseHighlights(black, black.slice(), HEADROOM);
  expect(black).toEqual(new Float32Array(9).fill(-40));
});
