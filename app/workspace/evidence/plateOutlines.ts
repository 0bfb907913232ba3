import { worldRay, type Camera } from "../../../core/panorama/camera";
import { pixelOf, type Canvas } from "../../../core/panorama/canvas/projection";

/**
 * A frame's outline on the canvas, in px: one line, or two where it goes over the end of a full
 * turn.
 */
export function seenFrom(c: Camera, canvas: Canvas): [number, number][][] {
  const edge = (t: number): [number, number] => {
    const s = t % 1;
    if (t < 1) return [s, 0];
    if (t < 2) return [1, s];
    if (t < 3) return [1 - s, 1];
    return [0, 1 - s];
  };
  const points = Array.from({ length: 48 }, (_, i) => {
    const [x, y] = edge(i / 12);
    return pixelOf(canvas, worldRay(c, x * c.width, y * c.height));
  }).filter((p) => p !== undefined);
  const turn = 2 * Math.PI * canvas.pxPerRadian;
  if (
    !canvas.closed ||
    Math.max(...points.map((p) => p[0])) - Math.min(...points.map((p) => p[0])) < turn / 2
  )
    return [points];
  // drawn at either end, each running out of the picture
  const right = points.map(([x, y]): [number, number] => [x < turn / 2 ? x + turn : x, y]);
  return [right, right.map(([x, y]): [number, number] => [x - turn, y])];
}
