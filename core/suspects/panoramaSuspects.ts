import { inFrame, seen, worldRay, type Camera, type Vector } from "../panorama/camera";
import { falloff, type Light } from "../panorama/light";
import { directionAt, pixelOf, shrunk, type Canvas } from "../panorama/projection";
import type { Labels } from "../panorama/seams";
import type { TiePair } from "../panorama/geometry";
import { areasOf } from "./areas";
import { ranked, type Suspect } from "./suspect";

/** Difference of two frames along their seam, in square roots of light, that may be seen. */
const VISIBLE = 0.07;
/** Px by which ties of a pair are off, as shares of the frame's long edge, and half the side of the place that is shown. */
const OFF = 0.0006, AROUND = 0.03;

/** Cells of the seams' map that are shown at once. */
const PART = 90;

interface Joined { cameras: readonly (Camera | undefined)[]; canvas: Canvas; labels: Labels; light: Light; pairs: readonly TiePair[]; look: (frame: number, x: number, y: number) => Vector; /** whether what no frame covers was made up */ filled: boolean }

/** Places of a panorama that deserve a look: seams whose two sides differ, pairs whose ties do not meet, and what was made up. */
export function panoramaSuspects({ cameras, canvas, labels, light, pairs, look, filled }: Joined): Suspect[] {
  const { width: w, height: h, of } = labels, small = { ...shrunk(canvas, canvas.width / w), width: w, height: h }, sx = canvas.width / w, sy = canvas.height / h, differ = new Float32Array(w * h);
  const seenBy = (place: number, x: number, y: number): Vector | undefined => {
    const c = cameras[place - 1], d = directionAt(small, x + 0.5, y + 0.5), p = c && d && seen(c, d);
    if (!p || !inFrame(c, p)) return undefined;
    const v = look(place - 1, p[0], p[1]), f = falloff(light, c, p[0], p[1]);
    return v.map((s, ch) => Math.sqrt(Math.max(0, (s * light.gains[place - 1]![ch]!) / f))) as Vector;
  };
  for (let y = 1; y < h - 1; y++) for (let x = 1; x < w - 1; x++) {
    const i = y * w + x, own = of[i]!, other = [of[i + 1]!, of[i + w]!].find((o) => o && o !== own);
    if (!own || !other) continue;
    const a = seenBy(own, x, y), b = seenBy(other, x, y);
    if (!a || !b) continue;
    const off = Math.max(...a.map((v, c) => Math.abs(v - b[c]!)));
    // a little to either side, so that a broken line of differing cells is one place
    for (let v = -1; v <= 1; v++) for (let u = -1; u <= 1; u++) differ[i + v * w + u] = Math.max(differ[i + v * w + u]!, off);
  }
  const box = (a: { x0: number; y0: number; x1: number; y1: number }): Pick<Suspect, "x" | "y" | "width" | "height"> => ({ x: a.x0 * sx, y: a.y0 * sy, width: (a.x1 - a.x0) * sx, height: (a.y1 - a.y0) * sy });
  const rounded = (v: number): number => Math.round(Math.min(1, v) * 1000) / 1000;
  const seams = areasOf(w, h, (i) => differ[i]! > VISIBLE, 12, (i) => differ[i]!).map((a): Suspect => ({ kind: "seam", ...box(a), score: rounded(a.mean * 2 * Math.min(1, Math.sqrt(a.cells) / 12)) }));
  // along a side there is much to see: part by part
  const parts = Array.from({ length: Math.ceil(w / PART) * Math.ceil(h / PART) }, (_, p) => p), inPart = (i: number): number => Math.floor(Math.floor(i / w) / PART) * Math.ceil(w / PART) + Math.floor((i % w) / PART);
  const made = filled ? parts.flatMap((p) => areasOf(w, h, (i) => !of[i] && inPart(i) === p, 6)).map((a): Suspect => ({ kind: "filled", ...box(a), score: rounded(0.15 + Math.sqrt(a.cells / (w * h))) })) : [];
  const loose = pairs.flatMap(({ a, points, errors }): Suspect[] => {
    const c = cameras[a];
    if (!c || !errors.length) return [];
    const long = Math.max(c.width, c.height), worst = errors.indexOf(Math.max(...errors)), rms = Math.sqrt(errors.reduce((s, e) => s + e * e, 0) / errors.length), at = pixelOf(canvas, worldRay(c, points[worst]![0], points[worst]![1])), side = AROUND * long;
    return rms > OFF * long && at ? [{ kind: "residual", x: at[0] - side, y: at[1] - side, width: 2 * side, height: 2 * side, score: rounded(rms / (OFF * long) / 8) }] : [];
  });
  return [...ranked(seams, 20), ...ranked(loose, 10), ...ranked(made, 12)];
}
