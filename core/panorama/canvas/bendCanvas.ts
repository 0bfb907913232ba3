import { bentBy, flatPlace } from "./bend";
import type { Canvas } from "./projection";
import { bendToRectangle } from "./rectangle";
import type { Labels } from "../seams/seams";
import { clamp } from "../../math/clamp";

/**
 * Cells of the small picture that the bend is found on, at most this many along the longer edge.
 */
const EDGE = 450;

/**
 * Bends a canvas towards a full rectangle, and the seams' map with it. Of a full turn, upper and
 * lower borders.
 *
 * @param amount  0 to 1
 */
export function bendCanvas(
  canvas: Canvas,
  labels: Labels,
  colour: Float32Array,
  amount: number,
): { canvas: Canvas; labels: Labels; unbent?: true } {
  if (!(amount > 0)) return { canvas, labels };
  const by = Math.max(1, Math.ceil(Math.max(labels.width, labels.height) / EDGE));
  const w = Math.floor(labels.width / by);
  const h = Math.floor(labels.height / by);
  const grey = new Float32Array(w * h);
  const full = new Uint8Array(w * h);
  for (let i = 0; i < w * h; i++) {
    const k = (Math.floor(i / w) * labels.width + (i % w)) * by;
    full[i] = labels.of[k] ? 1 : 0;
    grey[i] = (colour[k * 3]! + 2 * colour[k * 3 + 1]! + colour[k * 3 + 2]!) / 4;
  }
  const made = bendToRectangle(w, h, grey, full, canvas.closed);
  if (!made) return { canvas, labels, unbent: true };
  const grown = (size: number, factor: number): number =>
    Math.max(1, Math.round(size * (1 + (factor - 1) * amount)));
  const mesh = bentBy(made.bend, amount);
  const width = grown(labels.width, made.width);
  const height = grown(labels.height, made.height);
  const of = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [u, v] = flatPlace(mesh, (x + 0.5) / width, (y + 0.5) / height);
      of[y * width + x] =
        labels.of[
          clamp(Math.floor(v * labels.height), 0, labels.height - 1) * labels.width +
            clamp(Math.floor(u * labels.width), 0, labels.width - 1)
        ]!;
    }
  return {
    canvas: {
      ...canvas,
      width: grown(canvas.width, made.width),
      height: grown(canvas.height, made.height),
      bend: { mesh, width: canvas.width, height: canvas.height },
    },
    labels: { width, height, of },
  };
}
