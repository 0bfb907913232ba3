import { MOVING } from "../../simulate/moving";
import { simulatedRoom } from "../../simulate/room";
import { scoreDeghosting } from "../../simulate/scoreDeghosting";

const scene = simulatedRoom(1040, 700, 12);

test.each([
  ["a walking figure", 3, 0],
  ["rolling leaves", 5, 0.25],
  ["glittering water", 5, 0.25],
  ["a swaying curtain", 5, 0],
  ["drifting cloud", 5, 0.25],
])(
  "%s over %d frames, hand %f: comes out once, and what is still loses nothing",
  (what, count, hand) => {
    const evs = Array.from({ length: count }, (_, i) => (i - (count >> 1)) * 2);
    const s = scoreDeghosting(scene, evs, MOVING[what]!, hand, 52);
    expect(s.withinDb).toBeGreaterThan(35);
    // a cloud is too bright for the frames that would weigh more than the reference
    if (what !== "drifting cloud") expect(s.withinDb).toBeGreaterThan(s.untreatedDb + 10);
    expect(s.stillDb - s.elsewhereDb).toBeLessThan(0.2);
  },
);
