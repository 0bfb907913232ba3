import type { Heap } from "../../../kernels/heap";
import { apply } from "../../math/matrix3";
import { bandedCut } from "./bandedCut";
import { cutScratch } from "../../math/maxFlow";
import { inFrame, seen, worldRay, type Camera } from "../camera";
import { dot, unit, type Vector } from "../../math/vector";
import { falloff, type Light } from "../blend/light";
import { hiding, type Part } from "./masks";
import { directionAt, shrunk, type Canvas } from "../canvas/projection";
import { clamp } from "../../math/clamp";

/** Which frame each cell of the canvas is taken from, by its place plus 1; 0 where none is. */
export interface Labels {
  width: number;
  height: number;
  of: Uint8Array;
}

/** The map, and what is seen in it: evened light as square roots, R, G, B of each cell. */
export interface Seamed {
  labels: Labels;
  colour: Float32Array;
}

/** Long edge of the map on which seams are found, cells. */
const EDGE = 900;

/**
 * What a frame shows of a part of the map: evened light as square roots, R, G, B of each cell, less
 * than 0 where it shows nothing; and how far each lies from the frame's middle, in shares of its
 * sides.
 */
export interface Sight {
  x: number;
  y: number;
  width: number;
  height: number;
  colour: Float32Array;
  middle: Float32Array;
}

/** The canvas at the size of the map. */
export const mapOf = (canvas: Canvas): Canvas =>
  shrunk(canvas, Math.max(1, Math.max(canvas.width, canvas.height) / EDGE));

/**
 * Side of the blocks of cells at whose corners the way from map to frame is computed exactly;
 * between them it is as good as a plane.
 */
const BLOCK = 8;

/** A place of the frame in px, and what its light is divided by there. */
type Shown = readonly [x: number, y: number, falloff: number];

/**
 * What a frame shows of the map. What a mask hides of it is not there.
 *
 * @param map    as `mapOf` has it
 * @param masks  what the frame hides
 */
export function sightOf(
  camera: Camera,
  map: Canvas,
  colourAt: (x: number, y: number) => Vector,
  { gain, vignetting }: { gain: Vector; vignetting: Light["vignetting"] },
  masks: readonly Part[] = [],
): Sight | undefined {
  const blocks = blocksSeen(camera, map);
  if (!blocks.length) return undefined;
  const x = Math.min(...blocks.map((b) => b.x));
  const y = Math.min(...blocks.map((b) => b.y));
  const width = Math.max(...blocks.map((b) => b.right)) - x;
  const height = Math.max(...blocks.map((b) => b.below)) - y;
  const colour = new Float32Array(width * height * 3).fill(-1);
  const middle = new Float32Array(width * height);
  const shownAt = (u: number, v: number): Shown | undefined => {
    const d = directionAt(map, u, v);
    const p = d && seen(camera, d);
    return p && [...p, falloff({ vignetting }, camera, p[0], p[1])];
  };
  const hides = hiding(masks, camera);
  const put = (k: number, px: number, py: number, f: number): void => {
    if (!inFrame(camera, [px, py]) || hides(px, py)) return;
    const shown = colourAt(px, py);
    for (let c = 0; c < 3; c++)
      colour[k * 3 + c] = Math.sqrt(Math.max(0, (shown[c]! * gain[c]!) / f));
    middle[k] = Math.max(Math.abs(px / camera.width - 0.5), Math.abs(py / camera.height - 0.5));
  };
  for (const { x: left, y: top, right, below } of blocks) {
    const corners = [
      shownAt(left, top),
      shownAt(right, top),
      shownAt(left, below),
      shownAt(right, below),
    ];
    const n = right - left;
    const first = (top - y) * width + left - x;
    if (corners.every((c) => c !== undefined))
      interpolateBlock(corners, n, below - top, (i, j, px, py, f) =>
        put(first + j * width + i, px, py, f),
      );
    else
      for (let v = top; v < below; v++)
        for (let u = left; u < right; u++) {
          const at = shownAt(u + 0.5, v + 0.5);
          if (at) put((v - y) * width + u - x, ...at);
        }
  }
  return { x, y, width, height, colour, middle };
}

/**
 * Goes over the cells of a block, as many across and down, with what lies between its corners
 * (upper left and right, lower left and right).
 */
function interpolateBlock(
  [p, q, r, s]: readonly Shown[],
  across: number,
  down: number,
  put: (i: number, j: number, x: number, y: number, f: number) => void,
): void {
  const [px, py, pf] = p!;
  const [qx, qy, qf] = q!;
  const [rx, ry, rf] = r!;
  const [sx, sy, sf] = s!;
  for (let j = 0; j < down; j++) {
    const t = (j + 0.5) / down;
    const x = px + (rx - px) * t;
    const y = py + (ry - py) * t;
    const f = pf + (rf - pf) * t;
    const dx = qx + (sx - qx) * t - x;
    const dy = qy + (sy - qy) * t - y;
    const df = qf + (sf - qf) * t - f;
    for (let i = 0; i < across; i++) {
      const u = (i + 0.5) / across;
      put(i, j, x + dx * u, y + dy * u, f + df * u);
    }
  }
}

/** The blocks of the map of which a camera may see anything: far the fewest. */
function blocksSeen(
  camera: Camera,
  map: Canvas,
): { x: number; y: number; right: number; below: number }[] {
  const { axis, angle } = coneOf(camera);
  const out: ReturnType<typeof blocksSeen> = [];
  const at = (u: number, v: number): Vector | undefined => {
    const d = directionAt(map, u, v);
    return d && unit(d);
  };
  let above: (Vector | undefined)[] = [];
  for (let y = 0; y < map.height; y += BLOCK) {
    const below = Math.min(map.height, y + BLOCK);
    const row = (v: number): (Vector | undefined)[] =>
      Array.from({ length: Math.ceil(map.width / BLOCK) + 1 }, (_, i) =>
        at(Math.min(map.width, i * BLOCK), v),
      );
    const upper = y ? above : row(0);
    const lower = row(below);
    for (let i = 0; i + 1 < upper.length; i++) {
      const corners = [upper[i], upper[i + 1], lower[i], lower[i + 1]];
      const x = i * BLOCK;
      // none of a block lies further from its corners than these from each other; where the canvas
      // itself ends in it, its cells are asked one by one
      if (
        corners.some((c) => !c) ||
        Math.min(...corners.map((c) => angleBetween(axis, c!))) <
          angle +
            Math.max(angleBetween(corners[0]!, corners[3]!), angleBetween(corners[1]!, corners[2]!))
      )
        out.push({ x, y, right: Math.min(map.width, x + BLOCK), below });
    }
    above = lower;
  }
  return out;
}
/** Radians between two unit directions. */
const angleBetween = (a: Vector, b: Vector): number => Math.acos(clamp(dot(a, b), -1, 1));

/**
 * Finds seams frame by frame: each new frame is joined to what lies so far along the cut through
 * their overlap at which the two differ least, so that moving things and double contours are gone
 * round.
 *
 * @param map     as `mapOf` has it
 * @param sights  of each frame that shows any of it
 * @see Kwatra et al., "Graphcut textures", SIGGRAPH 2003
 */
export function joinSights(
  heap: Heap,
  cameras: readonly (Camera | undefined)[],
  map: Canvas,
  sights: readonly (Sight | undefined)[],
): Seamed {
  const { width, height } = map;
  const n = width * height;
  const so: Composite = {
    width,
    height,
    of: new Uint8Array(n),
    colour: new Float32Array(n * 3),
    centred: new Float32Array(n),
  };
  // from the middle of the row outwards, so that seams meet the fewest others
  const order = cameras
    .flatMap((c, i) =>
      c ? [{ i, away: Math.acos(clamp(apply(c.rotation, [0, 0, 1])[2], -1, 1)) }] : [],
    )
    .sort((a, b) => a.away - b.away)
    .map(({ i }) => i);
  for (const i of order) if (sights[i]) join(heap, so, sights[i], i + 1);
  return { labels: { width, height, of: so.of }, colour: so.colour };
}

/** Scratch that finding seams on a map takes. */
export const seamScratch = ({ width, height }: Canvas): number => cutScratch(width * height);

/**
 * The narrowest cone about a camera's axis that holds all it sees, radians. One that stands
 * elsewhere may see anything.
 */
function coneOf(c: Camera): { axis: Vector; angle: number } {
  const axis = unit(apply(c.rotation, [0, 0, 1]));
  const { width, height } = c;
  return {
    axis,
    angle: c.offset
      ? Math.PI
      : Math.acos(
          Math.max(
            -1,
            Math.min(
              ...[
                [0, 0],
                [width, 0],
                [0, height],
                [width, height],
              ].map(([x, y]) => dot(axis, worldRay(c, x!, y!))),
            ) - 0.01,
          ),
        ),
  };
}

/**
 * What lies on the map so far: which frame's each cell is, what it shows, and how far it lies from
 * that frame's middle.
 */
interface Composite extends Labels {
  colour: Float32Array;
  centred: Float32Array;
}

/** Cuts one frame into the composite, in place. */
function join(
  heap: Heap,
  { width: w, height: h, of, colour, centred }: Composite,
  own: Sight,
  label: number,
): void {
  const fresh: number[] = [];
  const take = (k: number, i: number): void => {
    of[k] = label;
    for (let c = 0; c < 3; c++) colour[k * 3 + c] = own.colour[i * 3 + c]!;
    centred[k] = own.middle[i]!;
  };
  let x0 = w;
  let x1 = -1;
  let y0 = h;
  let y1 = -1;
  for (let v = 0, i = 0; v < own.height; v++)
    for (let u = 0; u < own.width; u++, i++) {
      if (!(own.colour[i * 3]! >= 0)) continue;
      const x = own.x + u;
      const y = own.y + v;
      if (!of[y * w + x]) {
        fresh.push(i);
        continue;
      }
      x0 = Math.min(x0, x);
      x1 = Math.max(x1, x);
      y0 = Math.min(y0, y);
      y1 = Math.max(y1, y);
    }
  if (x1 >= x0) {
    // one cell more all round holds the sides that belong to one of the two alone
    const left = Math.max(0, x0 - 1);
    const top = Math.max(0, y0 - 1);
    const bw = Math.min(w - 1, x1 + 1) - left + 1;
    const bh = Math.min(h - 1, y1 + 1) - top + 1;
    const terminal = new Float32Array(bw * bh);
    const right = new Float32Array(bw * bh);
    const down = new Float32Array(bw * bh);
    const differ = new Float64Array(bw * bh).fill(-1);
    /** place in the frame's sight of a cell of the box, or less than 0 */
    const ownAt = (x: number, y: number): number =>
      x >= own.x && y >= own.y && x < own.x + own.width && y < own.y + own.height
        ? (y - own.y) * own.width + x - own.x
        : -1;
    for (let v = 0, b = 0; v < bh; v++)
      for (let u = 0; u < bw; u++, b++) {
        const k = (top + v) * w + left + u;
        const i = ownAt(left + u, top + v);
        const shown = i >= 0 && own.colour[i * 3]! >= 0;
        if (!of[k] || !shown) {
          const free = shown ? -FIXED_CAPACITY : 0;
          terminal[b] = of[k] ? FIXED_CAPACITY : free;
          continue;
        }
        let s = 0;
        for (let c = 0; c < 3; c++) s += (colour[k * 3 + c]! - own.colour[i * 3 + c]!) ** 2;
        differ[b] = Math.sqrt(s);
        // the middle of a frame is sharper and straighter than its edge
        terminal[b] = CENTRE_PREFERENCE * (own.middle[i]! - centred[k]!);
      }
    const between = (p: number, q: number): number =>
      p < 0 && q < 0 ? 0 : LENGTH_COST + Math.max(0, p) + Math.max(0, q);
    for (let v = 0, b = 0; v < bh; v++)
      for (let u = 0; u < bw; u++, b++) {
        if (u < bw - 1) right[b] = between(differ[b]!, differ[b + 1]!);
        if (v < bh - 1) down[b] = between(differ[b]!, differ[b + bw]!);
      }
    const side = bandedCut(heap, bw, bh, terminal, right, down);
    for (let v = 0, b = 0; v < bh; v++)
      for (let u = 0; u < bw; u++, b++)
        if (differ[b]! >= 0 && !side[b]) take((top + v) * w + left + u, ownAt(left + u, top + v));
  }
  for (const i of fresh) take((own.y + Math.floor(i / own.width)) * w + own.x + (i % own.width), i);
}
const FIXED_CAPACITY = 1e4;
const CENTRE_PREFERENCE = 0.01;
const LENGTH_COST = 0.004;
