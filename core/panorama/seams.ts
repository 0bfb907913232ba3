import { apply } from "../raster/matrix3";
import { bandedCut } from "./bandedCut";
import { dot, inFrame, seen, unit, worldRay, type Camera, type Vector } from "./camera";
import { falloff, type Light } from "./light";
import { within, type Outline } from "./masks";
import { directionAt, shrunk, type Canvas } from "./projection";

/** Which frame each cell of the canvas is taken from, by its place plus 1; 0 where none is. */
export interface Labels { width: number; height: number; of: Uint8Array }

/** The map, and what is seen in it: evened light as square roots, R, G, B of each cell. */
export interface Seamed { labels: Labels; colour: Float32Array }

/** Long edge of the map on which seams are found, cells. */
const EDGE = 900;

/**
 * Finds seams frame by frame: each new frame is joined to what lies so far along the cut through their overlap at which
 * the two differ least, so that moving things and double contours are gone round. What a mask hides of a frame is not there.
 *
 * @param masks  outlines of each frame, in shares of it
 * @see Kwatra et al., "Graphcut textures", SIGGRAPH 2003
 */
export function findSeams(cameras: readonly (Camera | undefined)[], canvas: Canvas, look: (frame: number, x: number, y: number) => Vector, light: Light, masks: readonly (readonly Outline[])[] = []): Seamed {
  const small = shrunk(canvas, Math.max(1, Math.max(canvas.width, canvas.height) / EDGE)), { width: w, height: h } = small, n = w * h;
  const labels = new Uint8Array(n), colour = new Float32Array(n * 3), centred = new Float32Array(n);
  // from the middle of the row outwards, so that seams meet the fewest others
  const order = cameras.flatMap((c, i) => (c ? [{ i, away: Math.acos(Math.min(1, Math.max(-1, apply(c.rotation, [0, 0, 1])[2]))) }] : [])).sort((a, b) => a.away - b.away).map(({ i }) => i);
  const directions = new Float64Array(n * 3).fill(NaN), d: Vector = [0, 0, 0];
  for (let k = 0; k < n; k++) { const shown = directionAt(small, (k % w) + 0.5, Math.floor(k / w) + 0.5); if (shown) directions.set(shown, k * 3); }
  const own = new Float32Array(n * 3), middle = new Float32Array(n);
  for (const i of order) {
    const c = cameras[i]!, { axis, least } = coneOf(c);
    own.fill(-1);
    for (let k = 0; k < n; k++) {
      for (let q = 0; q < 3; q++) d[q] = directions[k * 3 + q]!;
      // far the most cells are none of the frame's
      if (!(d[0] * axis[0] + d[1] * axis[1] + d[2] * axis[2] >= least)) continue;
      const p = seen(c, d);
      if (!p || !inFrame(c, p) || masks[i]?.some((m) => within(m, p[0] / c.width, p[1] / c.height))) continue;
      const v = look(i, p[0], p[1]), f = falloff(light, c, p[0], p[1]);
      for (let ch = 0; ch < 3; ch++) own[k * 3 + ch] = Math.sqrt(Math.max(0, (v[ch]! * light.gains[i]![ch]!) / f));
      middle[k] = Math.max(Math.abs(p[0] / c.width - 0.5), Math.abs(p[1] / c.height - 0.5));
    }
    join(w, h, labels, colour, centred, own, middle, i + 1);
  }
  return { labels: { width: w, height: h, of: labels }, colour };
}

/** The narrowest cone about a camera's axis that holds all it sees: the least cosine. One that stands elsewhere may see anything. */
function coneOf(c: Camera): { axis: Vector; least: number } {
  const axis = unit(apply(c.rotation, [0, 0, 1])), { width, height } = c;
  return { axis, least: c.offset ? -1 : Math.min(...[[0, 0], [width, 0], [0, height], [width, height]].map(([x, y]) => dot(axis, worldRay(c, x!, y!)))) - 0.01 };
}

/** Cuts one frame into the composite, in place. */
function join(w: number, h: number, labels: Uint8Array, colour: Float32Array, centred: Float32Array, own: Float32Array, middle: Float32Array, label: number): void {
  const both = (k: number): boolean => labels[k]! > 0 && own[k * 3]! >= 0;
  let x0 = w, x1 = 0, y0 = h, y1 = 0;
  const fresh: number[] = [];
  for (let y = 0, k = 0; y < h; y++) for (let x = 0; x < w; x++, k++) {
    if (!(own[k * 3]! >= 0)) continue;
    if (!labels[k]) { fresh.push(k); continue; }
    x0 = Math.min(x0, x); x1 = Math.max(x1, x); y0 = Math.min(y0, y); y1 = Math.max(y1, y);
  }
  const take = (k: number): void => { labels[k] = label; for (let c = 0; c < 3; c++) colour[k * 3 + c] = own[k * 3 + c]!; centred[k] = middle[k]!; };
  if (x1 >= x0) {
    // one cell more all round holds the sides that belong to one of the two alone
    const left = Math.max(0, x0 - 1), top = Math.max(0, y0 - 1), bw = Math.min(w - 1, x1 + 1) - left + 1, bh = Math.min(h - 1, y1 + 1) - top + 1;
    const terminal = new Float32Array(bw * bh), right = new Float32Array(bw * bh), down = new Float32Array(bw * bh);
    const at = (i: number): number => (top + Math.floor(i / bw)) * w + left + (i % bw), differ = (k: number): number => { let s = 0; for (let c = 0; c < 3; c++) s += (colour[k * 3 + c]! - own[k * 3 + c]!) ** 2; return Math.sqrt(s); };
    for (let i = 0; i < bw * bh; i++) {
      const k = at(i);
      if (!both(k)) { terminal[i] = labels[k] ? HELD : own[k * 3]! >= 0 ? -HELD : 0; continue; }
      // the middle of a frame is sharper and straighter than its edge
      terminal[i] = CENTRE * (middle[k]! - centred[k]!);
      const d = differ(k) + LENGTH;
      if (i % bw < bw - 1) { const q = at(i + 1); right[i] = d + (both(q) ? differ(q) : 0); }
      if (i + bw < bw * bh) { const q = at(i + bw); down[i] = d + (both(q) ? differ(q) : 0); }
    }
    for (let i = 0; i < bw * bh; i++) {
      const k = at(i);
      if (both(k)) continue;
      const touch = (j: number): boolean => both(at(j));
      if (i % bw < bw - 1 && touch(i + 1)) right[i] = differ(at(i + 1)) + LENGTH;
      if (i + bw < bw * bh && touch(i + bw)) down[i] = differ(at(i + bw)) + LENGTH;
    }
    const side = bandedCut(bw, bh, terminal, right, down);
    for (let i = 0; i < bw * bh; i++) {
      const k = at(i);
      if (both(k) && !side[i]) take(k);
    }
  }
  for (const k of fresh) take(k);
}
const HELD = 1e4, CENTRE = 0.01, LENGTH = 0.004;

