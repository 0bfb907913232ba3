import { random } from "../../math/random";

/** A picture whose unknown parts were filled with patches of its known ones. */
export interface Patchwork {
  width: number;
  height: number;
  /** R, G, B interleaved, complete */
  colour: Float32Array;
  /** 1 where the picture was known */
  known: Uint8Array;
  /** cells from each cell in or beside the unknown to the one it was taken after; 0, 0 elsewhere */
  dx: Int16Array;
  dy: Int16Array;
}

/** Half a patch's side, cells. */
const R = 3;
/** The coarsest picture's long edge; from one to the next it doubles. */
const COARSEST = 48;
/**
 * Of the mean squared difference of a patch: what going half the picture up or down costs. Skies
 * come from sky.
 */
const CLIMB = 0.03;

/**
 * Fills what is unknown so that every patch in it looks like some patch of the known, coarse to
 * fine: by turns the likest patches are found and all that lie over a place confidence on it.
 *
 * @param colour  w x h cells of R, G, B, in even steps to the eye (square roots of light); unknown
 *   ones are not read
 * @param usable  1 where patches may be taken from: within what is known, all of it if not given
 * @see Wexler, Shechtman, Irani, "Space-time completion of video", TPAMI 2007; Barnes et al.,
 *   "PatchMatch", SIGGRAPH 2009
 */
export function patchFill(
  width: number,
  height: number,
  colour: Float32Array,
  known: Uint8Array,
  usable: Uint8Array = known,
): Patchwork {
  const levels: Level[] = [{ w: width, h: height, colour, known, usable }];
  while (
    Math.max(levels[0]!.w, levels[0]!.h) > COARSEST * 1.5 &&
    Math.min(levels[0]!.w, levels[0]!.h) > 8 * R
  )
    levels.unshift(halved(levels[0]!));
  let below: Patchwork | undefined;
  levels.forEach((l, i) => {
    below = fillLevel(l, below, i, levels.length - 1 - i);
  });
  return below!;
}

/** The picture at one size. */
interface Level {
  w: number;
  h: number;
  colour: Float32Array;
  known: Uint8Array;
  usable: Uint8Array;
}

function halved({ w, h, colour, known, usable }: Level): Level {
  const W = (w + 1) >> 1;
  const H = (h + 1) >> 1;
  const out = new Float32Array(W * H * 3);
  const on = new Uint8Array(W * H);
  const from = new Uint8Array(W * H);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      let n = 0;
      let all = 0;
      let free = 0;
      const k = (y * W + x) * 3;
      for (let v = 2 * y; v < Math.min(h, 2 * y + 2); v++)
        for (let u = 2 * x; u < Math.min(w, 2 * x + 2); u++) {
          all++;
          const q = v * w + u;
          if (usable[q]) free++;
          if (known[q]) {
            n++;
            for (let c = 0; c < 3; c++) out[k + c]! += colour[q * 3 + c]!;
          }
        }
      for (let c = 0; c < 3; c++) out[k + c]! /= Math.max(1, n);
      on[y * W + x] = n === all ? 1 : 0;
      from[y * W + x] = free === all ? 1 : 0;
    }
  return { w: W, h: H, colour: out, known: on, usable: from };
}

function fillLevel(
  { w, h, colour, known, usable: from }: Level,
  below: Patchwork | undefined,
  depth: number,
  left: number,
): Patchwork {
  const n = w * h;
  const out = new Float32Array(n * 3);
  const dx = new Int16Array(n);
  const dy = new Int16Array(n);
  const done: Patchwork = { width: w, height: h, colour: out, known, dx, dy };
  const usable = sourceCells(from, w, h);
  const sources: number[] = [];
  for (let i = 0; i < n; i++) if (usable[i]) sources.push(i);
  for (let i = 0; i < n; i++) {
    const coarser = below ? (Math.floor(i / w) >> 1) * below.width + ((i % w) >> 1) : 0;
    for (let c = 0; c < 3; c++)
      out[i * 3 + c] = known[i] ? colour[i * 3 + c]! : (below?.colour[coarser * 3 + c] ?? 0);
  }
  if (!below) diffuse(out, known, w, h);
  if (!sources.length) return done;
  const targets: number[] = [];
  const cost = new Float32Array(n);
  const near = dilated(known, w, h);
  for (let i = 0; i < n; i++) if (near[i]) targets.push(i);
  const rnd = random(17 + depth);
  for (const i of targets) {
    const x = i % w;
    const y = Math.floor(i / w);
    const b = below ? (y >> 1) * below.width + (x >> 1) : 0;
    let sx = below ? x + 2 * below.dx[b]! : -1;
    let sy = below ? y + 2 * below.dy[b]! : -1;
    if (sx < 0 || sy < 0 || sx >= w || sy >= h || !usable[sy * w + sx]) {
      const s = sources[Math.floor(rnd() * sources.length)]!;
      sx = s % w;
      sy = Math.floor(s / w);
    }
    dx[i] = sx - x;
    dy[i] = sy - y;
  }
  const search = (i: number, sx: number, sy: number): void => {
    if (sx < 0 || sy < 0 || sx >= w || sy >= h || !usable[sy * w + sx]) return;
    const c = patchCost(out, w, h, i % w, Math.floor(i / w), sx, sy, cost[i]!);
    if (c < cost[i]!) {
      cost[i] = c;
      dx[i] = sx - (i % w);
      dy[i] = sy - Math.floor(i / w);
    }
  };
  // the finer, the less is left to find
  let turns: number;
  if (left === 0) turns = 2;
  else if (depth === 0) turns = 12;
  else turns = Math.max(2, 6 - depth);
  const sweeps = left === 0 ? 1 : 2;
  const reach = depth === 0 ? Math.max(w, h) : Math.max(8, Math.max(w, h) >> (depth + 1));
  for (let turn = 0; turn < turns; turn++) {
    for (const i of targets) {
      cost[i] = Infinity;
      cost[i] = patchCost(
        out,
        w,
        h,
        i % w,
        Math.floor(i / w),
        (i % w) + dx[i]!,
        Math.floor(i / w) + dy[i]!,
        Infinity,
      );
    }
    for (let sweep = 0; sweep < sweeps * 2; sweep++) {
      const back = sweep & 1;
      const step = back ? 1 : -1;
      for (let t = 0; t < targets.length; t++) {
        const i = targets[back ? targets.length - 1 - t : t]!;
        const x = i % w;
        const y = Math.floor(i / w);
        if (x + step >= 0 && x + step < w && near[i + step])
          search(i, x + dx[i + step]!, y + dy[i + step]!);
        if (y + step >= 0 && y + step < h && near[i + step * w])
          search(i, x + dx[i + step * w]!, y + dy[i + step * w]!);
        for (let r = reach; r >= 1; r >>= 1)
          search(
            i,
            x + dx[i]! + Math.round((rnd() * 2 - 1) * r),
            y + dy[i]! + Math.round((rnd() * 2 - 1) * r),
          );
      }
    }
    confidence(done, targets, cost);
  }
  return done;
}

/** Cells whose whole patch is known. */
function sourceCells(known: Uint8Array, w: number, h: number): Uint8Array {
  const out = new Uint8Array(w * h);
  for (let y = R; y < h - R; y++)
    for (let x = R; x < w - R; x++) {
      let all = 1;
      for (let v = -R; v <= R && all; v++)
        for (let u = -R; u <= R; u++)
          if (!known[(y + v) * w + x + u]) {
            all = 0;
            break;
          }
      out[y * w + x] = all;
    }
  return out;
}

/** The unknown and what is within a patch of it. */
function dilated(known: Uint8Array, w: number, h: number): Uint8Array {
  const out = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      if (!known[y * w + x])
        for (let v = Math.max(0, y - R); v <= Math.min(h - 1, y + R); v++)
          out.fill(1, v * w + Math.max(0, x - R), v * w + Math.min(w - 1, x + R) + 1);
  return out;
}

/**
 * Mean squared difference of two patches, of what lies in the picture, and the cost of going up or
 * down; given up above `most`.
 */
function patchCost(
  colour: Float32Array,
  w: number,
  h: number,
  x: number,
  y: number,
  sx: number,
  sy: number,
  most: number,
): number {
  const y0 = Math.max(-R, -y);
  const y1 = Math.min(R, h - 1 - y);
  const x0 = Math.max(-R, -x);
  const x1 = Math.min(R, w - 1 - x);
  const count = (y1 - y0 + 1) * (x1 - x0 + 1);
  const climb = CLIMB * ((2 * (sy - y)) / h) ** 2;
  const limit = (most - climb) * count;
  let sum = 0;
  for (let v = y0; v <= y1; v++) {
    let a = ((y + v) * w + x + x0) * 3;
    let b = ((sy + v) * w + sx + x0) * 3;
    for (let k = (x1 - x0 + 1) * 3; k > 0; k--, a++, b++) {
      const d = colour[a]! - colour[b]!;
      sum += d * d;
    }
    if (sum > limit) return Infinity;
  }
  return sum / count + climb;
}

/** Every patch over an unknown cell says what it should be, the likelier ones louder. */
function confidence(
  { width: w, height: h, colour, known, dx, dy }: Patchwork,
  targets: readonly number[],
  cost: Float32Array,
): void {
  const sums = new Float32Array(w * h * 4);
  const sorted = Float32Array.from(targets, (i) => cost[i]!).sort();
  const spread = Math.max(1e-6, sorted[Math.floor(sorted.length * 0.75)]! * 2);
  for (const i of targets) {
    const x = i % w;
    const y = Math.floor(i / w);
    const sx = x + dx[i]!;
    const sy = y + dy[i]!;
    const weight = Math.exp(-cost[i]! / spread) + 1e-4;
    for (let v = Math.max(-R, -y); v <= Math.min(R, h - 1 - y); v++)
      for (let u = Math.max(-R, -x); u <= Math.min(R, w - 1 - x); u++) {
        const to = (y + v) * w + x + u;
        if (known[to]) continue;
        const from = ((sy + v) * w + sx + u) * 3;
        for (let c = 0; c < 3; c++) sums[to * 4 + c]! += weight * colour[from + c]!;
        sums[to * 4 + 3]! += weight;
      }
  }
  for (let i = 0; i < w * h; i++)
    if (!known[i] && sums[i * 4 + 3]! > 0)
      for (let c = 0; c < 3; c++) colour[i * 3 + c] = sums[i * 4 + c]! / sums[i * 4 + 3]!;
}

/** A first guess: the nearest known colours, from the rim inwards. */
function diffuse(colour: Float32Array, known: Uint8Array, w: number, h: number): void {
  const set = known.slice();
  for (let left = true; left;) {
    left = false;
    const fresh: [number, number, number, number][] = [];
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        if (set[y * w + x]) continue;
        let n = 0;
        let r = 0;
        let g = 0;
        let b = 0;
        for (const [u, v] of [
          [x - 1, y],
          [x + 1, y],
          [x, y - 1],
          [x, y + 1],
        ] as const) {
          const k = v * w + u;
          if (u >= 0 && v >= 0 && u < w && v < h && set[k]) {
            n++;
            r += colour[k * 3]!;
            g += colour[k * 3 + 1]!;
            b += colour[k * 3 + 2]!;
          }
        }
        if (n) fresh.push([y * w + x, r / n, g / n, b / n]);
      }
    for (const [k, r, g, b] of fresh) {
      set[k] = 1;
      colour[k * 3] = r;
      colour[k * 3 + 1] = g;
      colour[k * 3 + 2] = b;
      left = true;
    }
  }
}
