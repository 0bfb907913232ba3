import { inFrame, LENS_KINDS, seen, type Camera } from "../camera";
import { rotationFromVector } from "../../math/rotation";
import { type Vector } from "../../math/vector";
import { lookingAt } from "../../../simulate/sweep";
import { canvasFor, directionAt, type Canvas } from "../canvas/projection";
import { findSeams } from "../../../tests/findSeams";
import { Heap } from "../../../kernels/heap";
import { joinSights, mapOf, seamScratch, sightOf } from "./seams";

const camera = (yaw: number, pitch: number, o: Partial<Camera> = {}): Camera => ({
  rotation: lookingAt(yaw, pitch, 3),
  focalPx: 800,
  distortion: [-0.03, 0.004, 0],
  width: 1200,
  height: 800,
  ...o,
});
const EVEN = { gain: [1, 1, 1] as Vector, vignetting: [0, 0] as [number, number] };
/** Every place of a frame in a colour of its own, which its square root tells. */
const placeOf =
  (c: Camera) =>
  (x: number, y: number): Vector => [x / c.width, y / c.height, 0.5];
const sphere = (cameras: Camera[]): Canvas =>
  canvasFor(cameras, { projection: "equirectangular", extent: [180, 180, 90, 90], most: 1e9 });

test.each([
  ["ahead", camera(0, 0), undefined],
  ["across the seam of a full turn", camera(179, 10), undefined],
  ["straight up", camera(20, 90), undefined],
  ...LENS_KINDS.slice(1).map((lens): [string, Camera, undefined] => [
    `${lens} with its circle`,
    camera(50, -20, { lens, focalPx: 420, circle: 390, distortion: [0, 0, 0] }),
    undefined,
  ]),
  ["on a stereographic canvas", camera(0, -30, { focalPx: 500 }), "stereographic" as const],
  ["on a Panini canvas", camera(15, 5, { focalPx: 500 }), "panini" as const],
] as const)("a frame %s shows in each cell of the map what it has there", (_, c, projection) => {
  const canvas = projection ? canvasFor([c], { projection, most: 1e9 }) : sphere([c]);
  const map = mapOf(canvas);
  const own = sightOf(c, map, placeOf(c), EVEN)!;
  let cells = 0;
  let wrong = 0;
  let worst = 0;
  for (let y = 0; y < map.height; y++)
    for (let x = 0; x < map.width; x++) {
      const d = directionAt(map, x + 0.5, y + 0.5);
      const p = d && seen(c, d);
      const shown = !!p && inFrame(c, p);
      const inBox = x >= own.x && y >= own.y && x < own.x + own.width && y < own.y + own.height;
      const k = (y - own.y) * own.width + x - own.x;
      const has = inBox && own.colour[k * 3]! >= 0;
      if (shown) cells++;
      if (shown !== has) {
        wrong++;
        continue;
      }
      if (has)
        worst = Math.max(
          worst,
          Math.hypot(
            own.colour[k * 3]! ** 2 * c.width - p![0],
            own.colour[k * 3 + 1]! ** 2 * c.height - p![1],
          ),
        );
    }
  expect(cells).toBeGreaterThan(500);
  // cells on the frame's very border may fall to either side
  expect(wrong).toBeLessThan(cells * 0.003 + 3);
  expect(worst).toBeLessThan(1.5);
});

test("what a mask hides of a frame is not there, and a frame that looks elsewhere shows nothing", () => {
  const c = camera(0, 0);
  const map = mapOf(canvasFor([c], { projection: "rectilinear", most: 1e9 }));
  const whole = sightOf(c, map, placeOf(c), EVEN)!;
  const half = sightOf(c, map, placeOf(c), EVEN, [
    {
      shape: "outline",
      points: [
        [0, 0],
        [0.5, 0],
        [0.5, 1],
        [0, 1],
      ],
      radius: 0,
    },
  ])!;
  const count = (s: typeof whole): number => {
    let n = 0;
    for (let k = 0; k < s.width * s.height; k++) n += s.colour[k * 3]! >= 0 ? 1 : 0;
    return n;
  };
  let leftmost = 1;
  expect(count(half) / count(whole)).toBeCloseTo(0.5, 1);
  for (let k = 0; k < half.width * half.height; k++)
    if (half.colour[k * 3]! >= 0) leftmost = Math.min(leftmost, half.colour[k * 3]! ** 2);
  expect(leftmost).toBeGreaterThan(0.49);
  expect(sightOf(camera(180, 0), map, placeOf(c), EVEN)).toBeUndefined();
});

test("the seam of two frames goes round a thing that only one of them shows, which stays whole or away", () => {
  const two = [camera(-12, 0), camera(12, 0)];
  const canvas = canvasFor(two, { projection: "rectilinear", most: 1e9 });
  const blob = { x: 0.02, y: 0.0, r: 0.09 };
  // a grey world; in the second frame something bright stands in the middle of what both show
  const colourAt =
    (i: number) =>
    (x: number, y: number): Vector => {
      const c = two[i]!;
      const u = (x - 600) / c.focalPx;
      const v = (y - 400) / c.focalPx;
      const yaw = Math.atan(u) + ((i ? 12 : -12) * Math.PI) / 180;
      const bright = i === 1 && Math.hypot(yaw - blob.x, v - blob.y) < blob.r ? 0.9 : 0.2;
      return [bright, bright, bright];
    };
  const map = mapOf(canvas);
  const { labels, colour } = joinSights(
    Heap.local(seamScratch(map)),
    two,
    map,
    two.map((c, i) => sightOf(c, map, colourAt(i), EVEN)),
  );
  let bright = 0;
  for (let k = 0; k < labels.of.length; k++) bright += labels.of[k] && colour[k * 3]! > 0.7 ? 1 : 0;
  const alone = sightOf(two[1]!, map, colourAt(1), EVEN)!;
  let all = 0;
  for (let k = 0; k < alone.width * alone.height; k++) all += alone.colour[k * 3]! > 0.7 ? 1 : 0;
  expect(all).toBeGreaterThan(200);
  expect(Math.min(bright, all - bright) / all).toBeLessThan(0.02);
});

test("every cell that any frame shows is one's that shows it", () => {
  const some = [
    camera(-30, 0),
    camera(0, 4),
    camera(33, -3),
    camera(8, 30, { rotation: rotationFromVector([-0.5, 0.1, 0.3]) }),
  ];
  const canvas = canvasFor(some, { projection: "cylindrical", most: 1e9 });
  const map = mapOf(canvas);
  const { labels } = findSeams(some, canvas, (i, x, y) => placeOf(some[i]!)(x, y), {
    gains: some.map(() => [1, 1, 1]),
    vignetting: [0.1, 0],
  });
  const sights = some.map((c) => sightOf(c, map, placeOf(c), EVEN));
  let wrong = 0;
  for (let y = 0; y < labels.height; y++)
    for (let x = 0; x < labels.width; x++) {
      const shows = sights.map(
        (s) =>
          !!s &&
          x >= s.x &&
          y >= s.y &&
          x < s.x + s.width &&
          y < s.y + s.height &&
          s.colour[((y - s.y) * s.width + x - s.x) * 3]! >= 0,
      );
      const label = labels.of[y * labels.width + x]!;
      if (label ? !shows[label - 1] : shows.includes(true)) wrong++;
    }
  expect(wrong).toBe(0);
});
