import type { AlignedFrame } from "../align/alignedFrame";
import { sharpGrid } from "../focus/sharpMap";
import { invert, project } from "../math/matrix3";
import { turnByHand } from "../math/viewTurn";
import { fullRectangle } from "./fullRectangle";
import { boxInPicture, inPicture, sharpnessInPicture } from "./inPicture";
import { pictureMapping } from "./pictureMapping";

const size = { width: 1200, height: 800 };
const fromPicture = pictureMapping(turnByHand({ yaw: 3, pitch: 9, roll: 5 }), 900, size, "filled");
const toPicture = invert(fromPicture);

test("what was found on the reference frame lies where the picture shows it", () => {
  const scale = 8;
  const [width, height] = [size.width / scale, size.height / scale];
  const confidences = new Uint8Array(width * height).fill(255);
  const [cx, cy] = [400, 300];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (Math.hypot((x + 0.5) * scale - cx, (y + 0.5) * scale - cy) < 60)
        confidences[y * width + x] = 0;
  const frame: AlignedFrame = {
    fromReference: [1, 0, 5, 0, 1, -3, 0, 0, 1],
    ev: 1,
    used: true,
    movedPx: 6,
    ghosts: { width, height, scale, share: 0.1, confidences },
  };
  const [laid] = inPicture([frame], fromPicture);
  const [px, py] = project(toPicture, cx, cy);
  const { confidences: mapped } = laid!.ghosts!;
  expect(mapped[Math.floor(py / scale) * width + Math.floor(px / scale)]).toBe(0);
  expect(mapped[Math.floor((py + 120) / scale) * width + Math.floor(px / scale)]).toBe(255);
  const through = project(laid!.fromReference, px, py);
  expect(through[0]).toBeCloseTo(cx + 5, 6);
  expect(through[1]).toBeCloseTo(cy - 3, 6);
  // of the frame itself nothing changed
  expect(frame.ghosts!.confidences).toBe(confidences);
});

test("a box becomes the box round its corners", () => {
  const box = boxInPicture({ x: 100, y: 200, width: 300, height: 50, times: 4 }, fromPicture);
  expect(box.times).toBe(4);
  for (const [x, y] of [
    [100, 200],
    [400, 250],
  ] as const) {
    const [u, v] = project(toPicture, x, y);
    expect(u).toBeGreaterThanOrEqual(box.x - 1e-9);
    expect(v).toBeGreaterThanOrEqual(box.y - 1e-9);
    expect(u).toBeLessThanOrEqual(box.x + box.width + 1e-9);
    expect(v).toBeLessThanOrEqual(box.y + box.height + 1e-9);
  }
});

test("where a run is sharp moves with the picture", () => {
  const grid = sharpGrid(size.width, size.height);
  const cells = [5 * grid.width + 4, 12 * grid.width + 20];
  const laid = sharpnessInPicture({ cells, top: [1.5, 2.5], shares: [0.4] }, size, fromPicture);
  expect(laid.shares).toEqual([0.4]);
  expect(new Set(laid.top)).toEqual(new Set([1.5, 2.5]));
  for (const [k, cell] of laid.cells.entries()) {
    const x = ((cell % grid.width) + 0.5) * (size.width / grid.width);
    const y = (Math.floor(cell / grid.width) + 0.5) * (size.height / grid.height);
    const [u, v] = project(fromPicture, x, y);
    const source = cells[laid.top[k] === 1.5 ? 0 : 1]!;
    expect(Math.floor((u / size.width) * grid.width)).toBe(source % grid.width);
    expect(Math.floor((v / size.height) * grid.height)).toBe(Math.floor(source / grid.width));
  }
});

describe("the largest full rectangle", () => {
  const isCovered = (x: number, y: number): boolean => {
    const [u, v] = project(fromPicture, x, y);
    return u >= -1e-6 && v >= -1e-6 && u <= size.width + 1e-6 && v <= size.height + 1e-6;
  };

  test.each([undefined, 1.5, 1, 0.8])("of ratio %p is covered, and no larger one is", (ratio) => {
    const r = fullRectangle([fromPicture], size, ratio)!;
    const cornersOf = (by: number): boolean[] =>
      [r.x - by, r.x + r.width + by].flatMap((x) =>
        [r.y - by, r.y + r.height + by].map((y) => isCovered(x, y)),
      );
    expect(cornersOf(0).every(Boolean)).toBe(true);
    expect(cornersOf(3).every(Boolean)).toBe(false);
    expect(r.width * r.height).toBeGreaterThan(0.4 * size.width * size.height);
    if (ratio !== undefined) expect(r.width / r.height).toBeCloseTo(ratio, 1);
  });

  test("is all of a picture that is covered, and nothing of one that is not", () => {
    expect(fullRectangle([[1, 0, 0, 0, 1, 0, 0, 0, 1]], size, undefined)).toEqual({
      x: 0,
      y: 0,
      ...size,
    });
    expect(fullRectangle([[1, 0, 5000, 0, 1, 0, 0, 0, 1]], size, undefined)).toBeUndefined();
  });
});
