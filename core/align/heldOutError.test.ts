import { Heap } from "../../kernels/heap";
import { invert, multiply, project } from "../math/matrix3";
import { simulateBracket } from "../../simulate/bracket";
import { simulatedRoom } from "../../simulate/room";
import { decode, SPACES } from "../colour/spaces";
import { heldOutError } from "./heldOutError";
import { logPyramid } from "./logPyramid";
import { registerPair } from "./registerPair";
import { templateOf } from "./template";

const W = 600;
const H = 400;
const LUT = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);

/**
 * Two exposures of a room, what was found between them, how far that is from the truth, and what is
 * said of it.
 */
function registered(
  seed: number,
  evs: [number, number],
  blank?: (x: number, y: number) => boolean,
) {
  const scene = simulatedRoom(W + 80, H + 80, seed);
  const { frames } = simulateBracket(scene, {
    width: W,
    height: H,
    evs,
    baseEv: 0,
    hand: 0.4,
    seed,
    reference: 0,
  });
  const heap = Heap.local(120e6);
  const [a, b] = frames.map((f) => {
    const samples = (f.samples as Uint8Array).slice();
    if (blank)
      for (let i = 0; i < W * H; i++)
        if (blank(i % W, Math.floor(i / W))) samples.fill(255, i * 3, i * 3 + 3);
    return logPyramid(
      heap,
      { ptr: heap.putBytes(samples), type: "u8", width: W, height: H, lut: LUT },
      f.ev,
    );
  });
  const template = templateOf(heap, a!);
  const found = registerPair(heap, template, b!, "similarity");
  const truth = multiply(invert(frames[1]!.toScene), frames[0]!.toScene);
  let sum = 0;
  let n = 0;
  for (let y = 0; y <= H; y += 40)
    for (let x = 0; x <= W; x += 40, n++) {
      const [u, v] = project(truth, x, y);
      const [p, q] = project(found.transform, x, y);
      sum += (u - p) ** 2 + (v - q) ** 2;
    }
  return {
    error: Math.sqrt(sum / n),
    reported: heldOutError(heap, template, b!, "similarity", found.transform, found.offset),
    heap,
    template,
    image: b!,
    found,
  };
}

test("what is said of a registration holds the truth within twice its value", () => {
  const sets = [3, 5, 8, 13, 21, 34].flatMap((seed) => [
    registered(seed, [0, 1]),
    registered(seed, [0, -3]),
  ]);
  expect(
    sets.filter(({ error, reported }) => reported !== undefined && error > 2 * reported),
  ).toEqual([]);
});

test("it is larger where one corner alone holds the frame, and not known where nothing does", () => {
  const whole = registered(7, [0, -1]).reported!;
  const corner = registered(7, [0, -1], (x, y) => x > 200 || y > 150).reported;
  const nothing = registered(7, [0, -1], () => true).reported;
  expect(corner === undefined || corner > 1.3 * whole).toBe(true);
  expect(nothing).toBeUndefined();
});
