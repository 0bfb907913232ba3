import { Heap } from "../../../kernels/heap";
import { lookingAt } from "../../../simulate/sweep";
import { PYRAMID_UNIT, type Piece } from "../blend/blend";
import { seen, type Camera } from "../camera";
import { falloff, type Light } from "../blend/light";
import { canvasFor, directionAt, type Canvas } from "./projection";
import { BLOCK_ROWS, warpPiece, warpScratch } from "./warpPiece";

const W = 320;
const H = 240;
/** Light of a place of the frame: slow waves, which any sampling draws alike. */
const lightAt = (x: number, y: number, c: number): number =>
  0.4 + 0.15 * Math.sin(x / 17 + c) + 0.1 * Math.cos(y / 13 - c) + 0.05 * Math.sin((x + y) / 23);

/**
 * A frame warped onto its canvas in strips of rows; planes of square roots and its share. The seams
 * give it the left part of the map.
 */
function warped(
  o: Partial<Camera>,
  cuts: (height: number) => number[],
  light: Light = { gains: [[1, 1, 1]], vignetting: [0, 0] },
): { planes: Float32Array[]; canvas: Canvas; camera: Camera; w: number; h: number } {
  const camera: Camera = {
    rotation: lookingAt(12, 6, 0),
    focalPx: 330,
    distortion: [-0.02, 0, 0],
    width: W,
    height: H,
    ...o,
  };
  const canvas = canvasFor([camera], { projection: "cylindrical", most: 1e9 });
  const w = Math.ceil(canvas.width / PYRAMID_UNIT) * PYRAMID_UNIT;
  const h = Math.ceil(canvas.height / PYRAMID_UNIT) * PYRAMID_UNIT;
  const heap = Heap.local(warpScratch("f32") + 30e6);
  const samples = heap.alloc(W * H * 12 + 64);
  const planes = [0, 1, 2, 3].map(() => 0);
  const start = heap.alloc(w * h * 16 + 256);
  planes.forEach((_, c) => {
    planes[c] = start + c * w * h * 4;
  });
  const px = heap.f32(samples, W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      for (let c = 0; c < 3; c++) px[(y * W + x) * 3 + c] = lightAt(x + 0.5, y + 0.5, c);
  const map = { width: 40, height: 30 };
  const labels = heap.alloc(map.width * map.height);
  heap.u8(labels, map.width * map.height).forEach((_, i, l) => {
    l[i] = i % map.width < 25 ? 1 : 0;
  });
  const piece: Piece = { x: 0, y: 0, width: w, height: h, from: 0, to: w };
  const rows = cuts(h);
  rows.slice(1).forEach((y1, k) =>
    warpPiece(
      heap,
      {
        frame: {
          ptr: samples,
          type: "f32",
          width: W,
          height: H,
          lut: new Float32Array(0),
        } as Parameters<typeof warpPiece>[1]["frame"],
        camera,
        canvas,
        light,
        place: 0,
        bounds: { x: 0, y: 0, width: w, height: h },
        piece,
        planes,
        labels: { ptr: labels, ...map },
      },
      rows[k]!,
      y1,
    ),
  );
  return { planes: planes.map((p) => heap.f32(p, w * h).slice()), canvas, camera, w, h };
}
const whole = (h: number): number[] => [0, h];

test.each([
  ["upright", {}],
  ["rolled", { rotation: lookingAt(12, 6, 25) }],
  ["upside down", { rotation: lookingAt(-5, 0, 178) }],
  ["fisheye", { lens: "equisolid", focalPx: 200, distortion: [0, 0, 0] }],
] as [string, Partial<Camera>][])(
  "a frame taken %s shows on the canvas what it shows where its camera sees it",
  (_, o) => {
    const { planes, canvas, camera, w } = warped(o, whole);
    let worst = 0;
    let count = 0;
    for (let y = 2; y < canvas.height - 2; y += 3)
      for (let x = 2; x < canvas.width - 2; x += 3) {
        const d = directionAt(canvas, x + 0.5, y + 0.5);
        const p = d && seen(camera, d);
        if (!p || p[0] < 4 || p[1] < 4 || p[0] > W - 4 || p[1] > H - 4) continue;
        count++;
        for (let c = 0; c < 3; c++)
          worst = Math.max(
            worst,
            Math.abs(planes[c]![y * w + x]! - Math.sqrt(lightAt(p[0], p[1], c))),
          );
      }
    expect(count).toBeGreaterThan(1000);
    expect(worst).toBeLessThan(4e-3);
  },
);

test("its share is what the seams give it, passes smoothly to nothing, and is nothing beyond the frame", () => {
  const {
    planes: [, , , share],
    canvas,
    camera,
    w,
  } = warped({}, whole);
  const seam = (25 / 40) * canvas.width;
  const y = Math.floor(canvas.height / 2);
  expect(share![y * w + Math.floor(seam) - 20]).toBe(1);
  expect(share![y * w + Math.ceil(seam) + 20]).toBe(0);
  for (let x = 60; x < canvas.width - 60; x++)
    expect(share![y * w + x + 1]!).toBeLessThanOrEqual(share![y * w + x]! + 1e-6);
  for (let v = 0; v < canvas.height; v += 2)
    for (let x = 0; x < canvas.width; x += 2) {
      const d = directionAt(canvas, x + 0.5, v + 0.5);
      const p = d && seen(camera, d);
      if (!p || p[0] < -1 || p[1] < -1 || p[0] > W + 1 || p[1] > H + 1)
        expect(share![v * w + x]).toBe(0);
    }
});

test("light is evened: by the frame's gains, and by its falling off towards the corners", () => {
  const light: Light = { gains: [[2, 1, 0.5]], vignetting: [-0.3, 0.05] };
  const { planes, canvas, camera, w } = warped({}, whole, light);
  for (let y = 20; y < canvas.height - 20; y += 11)
    for (let x = 20; x < canvas.width * 0.55; x += 11) {
      const p = seen(camera, directionAt(canvas, x + 0.5, y + 0.5)!);
      if (!p || p[0] < 6 || p[1] < 6 || p[0] > W - 6 || p[1] > H - 6) continue;
      for (let c = 0; c < 3; c++)
        expect(planes[c]![y * w + x]!).toBeCloseTo(
          Math.sqrt(
            (lightAt(p[0], p[1], c) * light.gains[0]![c]!) / falloff(light, camera, p[0], p[1]),
          ),
          2,
        );
    }
});

test("a ramp that is kept grows along its direction", () => {
  const ramp = { along: [0.8, 0, 0.1] as [number, number, number], all: -0.2 };
  const plain = warped({}, whole);
  const light: Light = { gains: [[1, 1, 1]], vignetting: [0, 0], ramp };
  const { planes, canvas, w } = warped({}, whole, light);
  for (let y = 20; y < canvas.height - 20; y += 17)
    for (let x = 20; x < canvas.width - 20; x += 17) {
      const [dx, dy, dz] = directionAt(canvas, x + 0.5, y + 0.5)!;
      const size = Math.hypot(dx, dy, dz);
      const k = y * w + x;
      for (let c = 0; c < 3; c++)
        expect(planes[c]![k]! ** 2 / plain.planes[c]![k]! ** 2).toBeCloseTo(
          Math.exp((0.8 * dx + 0.1 * dz) / size - 0.2),
          2,
        );
    }
});

test("the same bytes in whatever strips it is warped", () => {
  const one = warped({}, whole);
  const many = warped({}, (h) => [0, BLOCK_ROWS, 3 * BLOCK_ROWS, h]);
  many.planes.forEach((p, c) => expect(p).toEqual(one.planes[c]));
});
