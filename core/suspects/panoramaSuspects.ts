import { inFrame, seen, worldRay, type Camera } from "../panorama/camera";
import { type Vector } from "../math/vector";
import { falloff, type Light } from "../panorama/blend/light";
import { directionAt, pixelOf, shrunk, type Canvas } from "../panorama/canvas/projection";
import type { Labels } from "../panorama/seams/seams";
import type { DoubtfulPlace } from "../panorama/layout/layoutDoubt";
import type { TiePair } from "../panorama/layout/geometry";
import { areasOf, type Area } from "./areas";
import { ranked, type Suspect } from "./suspect";

/** Difference of two frames along their seam, in square roots of light, that may be seen. */
const VISIBLE_DIFFERENCE = 0.07;
/**
 * Px by which ties of a pair are off, as shares of the frame's long edge, and half the side of the
 * place that is shown.
 */
const MAX_TIE_MISS_SHARE = 0.0006;
const SHOWN_HALF_SHARE = 0.03;

/** A frame that shares less than this with the one it shares most with is held by little. */
const MIN_SHARED = 0.15;
/** Places of a frame, each way, that are asked who else shows them. */
const GRID = 24;
/**
 * A thing that a seam cuts is at least so many cells across, fills so much of its box, and lies to
 * this share at least on either side; what is larger than this is no thing.
 */
const MIN_THING_CELLS = 6;
const MIN_FILLED_SHARE = 0.3;
const MIN_SIDE_SHARE = 0.15;
const MAX_THING_CELLS = 20000;

/** Cells of the seams' map that are shown at once. */
const SHOWN_CELLS = 90;

interface Joined {
  cameras: readonly (Camera | undefined)[];
  canvas: Canvas;
  labels: Labels;
  light: Light;
  pairs: readonly TiePair[];
  /** frames that other matches have elsewhere */
  doubtful?: readonly DoubtfulPlace[];
  colourAt: (frame: number, x: number, y: number) => Vector;
  /** whether what no frame covers was made up */
  filled: boolean;
}

/**
 * Places of a panorama that deserve a look: seams whose two sides differ, moving things they cut,
 * pairs whose ties do not meet, frames that share little with the others, whose place is in doubt,
 * and what was made up.
 */
export function panoramaSuspects({
  cameras,
  canvas,
  labels,
  light,
  pairs,
  doubtful = [],
  colourAt,
  filled,
}: Joined): Suspect[] {
  const { width: w, height: h, of } = labels;
  const small = { ...shrunk(canvas, canvas.width / w), width: w, height: h };
  const sx = canvas.width / w;
  const sy = canvas.height / h;
  const differ = new Float32Array(w * h);
  const seenBy = (place: number, x: number, y: number): Vector | undefined => {
    const c = cameras[place - 1];
    const d = directionAt(small, x + 0.5, y + 0.5);
    const p = c && d && seen(c, d);
    if (!p || !inFrame(c, p)) return undefined;
    const v = colourAt(place - 1, p[0], p[1]);
    const f = falloff(light, c, p[0], p[1]);
    return v.map((s, ch) =>
      Math.sqrt(Math.max(0, (s * light.gains[place - 1]![ch]!) / f)),
    ) as Vector;
  };
  /** How far two frames differ in a cell that both show. */
  const apart = (own: number, other: number, x: number, y: number): number | undefined => {
    const a = seenBy(own, x, y);
    const b = a && seenBy(other, x, y);
    return b && Math.max(...a.map((v, c) => Math.abs(v - b[c]!)));
  };
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      const own = of[i]!;
      const other = [of[i + 1]!, of[i + w]!].find((o) => o && o !== own);
      if (!own || !other) continue;
      const off = apart(own, other, x, y);
      if (off === undefined) continue;
      // a little to either side, so that a broken line of differing cells is one place
      for (let v = -1; v <= 1; v++)
        for (let u = -1; u <= 1; u++) differ[i + v * w + u] = Math.max(differ[i + v * w + u]!, off);
    }
  const box = (a: {
    x0: number;
    y0: number;
    x1: number;
    y1: number;
  }): Pick<Suspect, "x" | "y" | "width" | "height"> => ({
    x: a.x0 * sx,
    y: a.y0 * sy,
    width: (a.x1 - a.x0) * sx,
    height: (a.y1 - a.y0) * sy,
  });
  const rounded = (v: number): number => Math.round(Math.min(1, v) * 1000) / 1000;
  /**
   * What differs between the two frames that meet in an area of their seam, if it is one thing that
   * lies on both sides of it: it stands elsewhere, or not at all, in one of them.
   */
  const thingAt = (a: Area): Area | undefined => {
    let start: { i: number; own: number; other: number } | undefined;
    for (let y = Math.max(1, a.y0); y < Math.min(h - 1, a.y1) && !start; y++)
      for (let x = Math.max(1, a.x0); x < Math.min(w - 1, a.x1); x++) {
        const i = y * w + x;
        const own = of[i]!;
        const other = [of[i + 1]!, of[i + w]!].find((o) => o && o !== own);
        if (own && other && differ[i]! > VISIBLE_DIFFERENCE) {
          start = { i, own, other };
          break;
        }
      }
    if (!start) return undefined;
    const { own, other } = start;
    const seen = new Set([start.i]);
    const queue = [start.i];
    const thing: Area = { x0: w, y0: h, x1: 0, y1: 0, cells: 0, mean: 0 };
    const ends = new Set<number>();
    let mine = 0;
    while (queue.length) {
      const i = queue.pop()!;
      const x = i % w;
      const y = (i - x) / w;
      thing.cells++;
      if (of[i] === own) mine++;
      thing.x0 = Math.min(thing.x0, x);
      thing.x1 = Math.max(thing.x1, x + 1);
      thing.y0 = Math.min(thing.y0, y);
      thing.y1 = Math.max(thing.y1, y + 1);
      for (const [u, v] of [
        [x - 1, y],
        [x + 1, y],
        [x, y - 1],
        [x, y + 1],
      ] as const) {
        const k = v * w + u;
        if (u < 0 || v < 0 || u >= w || v >= h || seen.has(k)) continue;
        const off = apart(own, other, u, v);
        // where one of them ends
        if (off === undefined) {
          for (const f of [own, other]) if (!seenBy(f, u, v)) ends.add(f);
          continue;
        }
        if (off > VISIBLE_DIFFERENCE) {
          seen.add(k);
          queue.push(k);
        }
      }
      if (thing.cells > MAX_THING_CELLS) return undefined;
    }
    const across = thing.x1 - thing.x0;
    const down = thing.y1 - thing.y0;
    const share = mine / thing.cells;
    return ends.size < 2 &&
      Math.min(across, down) >= MIN_THING_CELLS &&
      thing.cells > MIN_FILLED_SHARE * across * down &&
      share > MIN_SIDE_SHARE &&
      share < 1 - MIN_SIDE_SHARE
      ? thing
      : undefined;
  };
  const seams = areasOf(
    w,
    h,
    (i) => differ[i]! > VISIBLE_DIFFERENCE,
    12,
    (i) => differ[i]!,
  ).map((a): Suspect => {
    const thing = thingAt(a);
    const score = rounded(a.mean * 2 * Math.min(1, Math.sqrt(a.cells) / 12));
    return thing
      ? { kind: "moved part", ...box(thing), score }
      : { kind: "seam", ...box(a), score };
  });
  // along a side there is much to see: part by part
  const parts = Array.from(
    { length: Math.ceil(w / SHOWN_CELLS) * Math.ceil(h / SHOWN_CELLS) },
    (_, p) => p,
  );
  const inPart = (i: number): number =>
    Math.floor(Math.floor(i / w) / SHOWN_CELLS) * Math.ceil(w / SHOWN_CELLS) +
    Math.floor((i % w) / SHOWN_CELLS);
  const made = filled
    ? parts
        .flatMap((p) => areasOf(w, h, (i) => !of[i] && inPart(i) === p, 6))
        .map((a): Suspect => ({
          kind: "filled",
          ...box(a),
          score: rounded(0.15 + Math.sqrt(a.cells / (w * h))),
        }))
    : [];
  const loose = pairs.flatMap(({ a, points, errors }): Suspect[] => {
    const c = cameras[a];
    if (!c || !errors.length) return [];
    const long = Math.max(c.width, c.height);
    const worst = errors.indexOf(Math.max(...errors));
    const rms = Math.sqrt(errors.reduce((s, e) => s + e * e, 0) / errors.length);
    const at = pixelOf(canvas, worldRay(c, points[worst]![0], points[worst]![1]));
    const side = SHOWN_HALF_SHARE * long;
    return rms > MAX_TIE_MISS_SHARE * long && at
      ? [
          {
            kind: "residual",
            x: at[0] - side,
            y: at[1] - side,
            width: 2 * side,
            height: 2 * side,
            score: rounded(rms / (MAX_TIE_MISS_SHARE * long) / 8),
          },
        ]
      : [];
  });
  const thin = cameras.flatMap((c, i): Suspect[] => {
    if (!c) return [];
    const shared = cameras.map((): [number, number][] => []);
    for (let v = 0; v < GRID; v++)
      for (let u = 0; u < GRID; u++) {
        const x = ((u + 0.5) / GRID) * c.width;
        const y = ((v + 0.5) / GRID) * c.height;
        const d = worldRay(c, x, y);
        cameras.forEach((o, k) => {
          const p = o && k !== i && seen(o, d);
          if (p && inFrame(o, p)) shared[k]!.push([x, y]);
        });
      }
    const most = shared.reduce((p, q) => (q.length > p.length ? q : p));
    const share = most.length / GRID ** 2;
    const at =
      share > 0 && share < MIN_SHARED
        ? most.flatMap(([x, y]) => {
            const p = pixelOf(canvas, worldRay(c, x, y));
            return p ? [p] : [];
          })
        : [];
    const x0 = Math.min(...at.map((p) => p[0]));
    const x1 = Math.max(...at.map((p) => p[0]));
    const y0 = Math.min(...at.map((p) => p[1]));
    const y1 = Math.max(...at.map((p) => p[1]));
    // over the ends of a full turn it is no one place
    return at.length > 1 && x1 - x0 < canvas.width / 2
      ? [
          {
            kind: "thin overlap",
            x: x0,
            y: y0,
            width: x1 - x0,
            height: y1 - y0,
            score: rounded(0.2 + 0.6 * (1 - share / MIN_SHARED)),
          },
        ]
      : [];
  });
  const doubt = doubtful.flatMap(({ frame }, k): Suspect[] => {
    const c = cameras[frame];
    const at = c && pixelOf(canvas, worldRay(c, c.width / 2, c.height / 2));
    const side = c ? Math.min(c.width, c.height) / 4 : 0;
    // before all else: what lies wrong makes every other measure worthless
    return at
      ? [
          {
            kind: "place in doubt",
            x: at[0] - side,
            y: at[1] - side,
            width: 2 * side,
            height: 2 * side,
            score: rounded(1 - 0.001 * k),
          },
        ]
      : [];
  });
  return [
    ...doubt,
    ...ranked(seams, 20),
    ...ranked(thin, 6),
    ...ranked(loose, 10),
    ...ranked(made, 12),
  ];
}
