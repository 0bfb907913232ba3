import { solveSymmetric } from "../math/solveSymmetric";
import { evBetween, HIGHEST, LOWEST, type FrameSignature } from "./signature";
import { clamp } from "../math/clamp";

/** How a second frame lies against a first one, as far as their signatures tell. */
export interface PairView {
  /**
   * correlation of what both show well exposed, -1..1, and the share of the frame over which it was
   * taken
   */
  correlation: number;
  overlap: number;
  /** the second frame's place in the first: shares of its width and height */
  dx: number;
  dy: number;
  /** EV of the second against the first, from the pixels both show well */
  gainEv: number;
  /** how sure it is that they show the same place, in standard deviations */
  certainty: number;
  /**
   * of the parts of the frame that have texture, the share that fits, 0..1; asked only of frames
   * that lie on each other
   */
  alike?: number;
}

export type Shift = Pick<PairView, "dx" | "dy">;
/** How far apart two frames lie, shares of the frame along the longer way. */
export const shiftOf = ({ dx, dy }: Shift): number => Math.max(Math.abs(dx), Math.abs(dy));

interface Level {
  w: number;
  h: number;
  /** against its neighbourhood, EV */
  value: Float32Array;
  /** 1 where well exposed */
  valid: Uint8Array;
  /** as in the signature */
  code: Uint8Array;
}
const pyramids = new WeakMap<FrameSignature, Map<string, Level[]>>();

/**
 * Finds the shift under which two frames correlate best: all shifts at a quarter of the signature's
 * size, the best few refined. Log luminance turns exposure into an offset, which correlation
 * ignores; slow changes of brightness, which all skies and vignettes share, are taken out first. On
 * the sphere round the camera a turn is nearly a shift, so both frames are warped onto it.
 *
 * @param focal  focal length in long edges of the frame
 * @param step  EV of the second against the first by their settings: where light is not what they
 *   let expect lies another thing
 * @returns undefined when the frames differ in shape or share nothing well exposed
 * @see Lewis, "Fast normalized cross-correlation", 1995
 */
export function comparePair(
  a: FrameSignature,
  b: FrameSignature,
  focal?: number,
  step?: number,
): PairView | undefined {
  if (a.width !== b.width || a.height !== b.height) return undefined;
  let best: PairView | undefined;
  for (const [f, tilt] of focal ? lensOf(focal) : UNKNOWN_LENS) {
    const found = compareOnSphere(pyramidOf(a, f, tilt), pyramidOf(b, f, tilt), step);
    if (found && (!best || found.certainty > best.certainty)) best = found;
    // a wrong guess of lens or tilt still shows something of what is there
    if (!best || best.certainty > SURE || best.certainty < HOPELESS) break;
  }
  return best;
}

/**
 * The same for a guess of where the second frame lies, in shares of the first: what the two tell of
 * that place and no other.
 */
export function compareAt(
  a: FrameSignature,
  b: FrameSignature,
  focal: number | undefined,
  guess: { dx: number; dy: number },
  step?: number,
): PairView | undefined {
  if (a.width !== b.width || a.height !== b.height) return undefined;
  let best: PairView | undefined;
  for (const [f, tilt] of focal ? lensOf(focal) : UNKNOWN_LENS) {
    const A = pyramidOf(a, f, tilt);
    const { w, h } = A.at(-1)!;
    const found = refined(A, pyramidOf(b, f, tilt), [{ dx: guess.dx * w, dy: guess.dy * h }], step);
    if (
      found &&
      shiftOf({ dx: found.dx - guess.dx, dy: found.dy - guess.dy }) < 0.06 &&
      (!best || found.certainty > best.certainty)
    )
      best = found;
  }
  return best;
}
/** Rows above and below the horizon are about so far tilted, degrees. */
const TILT = 20;
const lensOf = (focal: number) =>
  [
    [focal, 0],
    [focal, TILT],
    [focal, -TILT],
  ] as const;
const UNKNOWN_LENS = [
  [0.75, 0],
  [0.5, 0],
  [0.6, TILT],
  [0.6, -TILT],
] as const;
/** No other guess is tried beyond this. */
const SURE = 7;
const HOPELESS = 2.6;

function compareOnSphere(A: Level[], B: Level[], step?: number): PairView | undefined {
  const top = A.length - 1;
  const { w, h } = A[top]!;
  const reachX = Math.floor(w * 0.86);
  const reachY = Math.floor(h * 0.86);
  // most frames of a set lie nearly where the one before did: then nothing else need be tried
  const near = refined(A, B, [{ dx: 0, dy: 0 }], step);
  const partly = near !== undefined && onlyPartly(near);
  if (near && !partly && near.certainty > PLAIN && shiftOf(near) < 0.1) return near;
  let found: { dx: number; dy: number; score: number }[] = [];
  for (let dy = -reachY; dy <= reachY; dy++)
    for (let dx = -reachX; dx <= reachX; dx++) {
      const score = scoreOf(correlate(A[top]!, B[top]!, dx, dy));
      // what they lie on each other by is known, and hides how far the camera turned
      if (score > 0.2 && !(partly && shiftOf({ dx: dx / w, dy: dy / h }) < ON))
        found.push({ dx, dy, score });
    }
  found.sort((p, q) => q.score - p.score);
  found = distinct(found, 2, step === undefined ? 3 : 8);
  if (step !== undefined)
    found = found
      .map((f) => ({
        ...f,
        score: f.score * exposureTrust(gainOf(A[top]!, B[top]!, [1, 0, -f.dx, 0, 1, -f.dy]), step),
      }))
      .sort((p, q) => q.score - p.score)
      .slice(0, 3);
  const far = refined(A, B, found, step);
  return near && (!far || (!partly && near.certainty >= far.certainty)) ? near : far;
}

/**
 * Frames lie on each other in a part only: the legs of a tripod are in the same place of every
 * frame that looks down past them.
 */
export const onlyPartly = ({ alike = 1 }: Pick<PairView, "alike">): boolean => alike < 0.5;
/** Frames that lie so near each other, shares of the frame, may lie on each other. */
const ON = 0.12;
/**
 * How far a place is believed by its light against what the settings let expect, 0..1: repeated
 * things look alike but are seldom lit alike. Flash, clouds and the camera's own tone curve leave
 * it somewhat worth.
 */
const exposureTrust = (gainEv: number, step: number): number =>
  Math.max(0.25, 1 / (1 + ((gainEv - step) / (0.5 + 0.2 * Math.abs(step))) ** 2));
/** Beyond all chance, which reaches about 5. */
const PLAIN = 18;

/** The best of some shifts at a quarter of the size, refined. */
function refined(
  A: Level[],
  B: Level[],
  found: readonly { dx: number; dy: number }[],
  step?: number,
): PairView | undefined {
  const finer = (guesses: Affine[], level: number, rounds: number): Fit[] =>
    guesses
      .map((g) => refine(A[level]!, B[level]!, doubled(g), rounds))
      .filter((g): g is Fit => g !== undefined)
      .sort((p, q) => scoreOf(q) - scoreOf(p));
  const half = finer(
    found.map((f): Affine => [1, 0, -f.dx, 0, 1, -f.dy]),
    1,
    4,
  )[0];
  const best = half && finer([half.map], 0, 2)[0];
  if (!best) return undefined;
  const { w: fw, h: fh } = A[0]!;
  const [mx, my] = middleOf(best.map, fw, fh);
  // neighbouring samples say the same: one in SAMPLE_AREA is independent
  const gainEv = gainOf(A[0]!, B[0]!, best.map);
  const certainty =
    (step === undefined ? 1 : exposureTrust(gainEv, step)) *
    Math.atanh(clamp(best.r, -0.999, 0.999)) *
    Math.sqrt(Math.max(0, best.n / SAMPLE_AREA - 3));
  const shift = { dx: mx / fw, dy: my / fh };
  return {
    correlation: best.r,
    overlap: best.n / best.area,
    ...shift,
    gainEv,
    certainty,
    ...alikeWhereNear(shiftOf(shift), A[0]!, B[0]!, best.map),
  };
}
const SAMPLE_AREA = 24;
/** Turns and stretches are believed to be of a tenth or so, against the weight of the samples. */
const HOLD = 500;

/** A step as small as this, px, is the last. */
const SETTLED = 0.03;

/** Correlation over little counts less: among many shifts some small corner always fits. */
const scoreOf = (c: { r: number; n: number; area: number } | undefined): number =>
  c ? c.r * Math.sqrt(Math.min(1, c.n / (0.3 * c.area))) : -Infinity;

function correlate(
  a: Level,
  b: Level,
  dx: number,
  dy: number,
): { r: number; n: number; area: number } | undefined {
  const x0 = Math.max(0, dx);
  const x1 = Math.min(a.w, a.w + dx);
  const y0 = Math.max(0, dy);
  const y1 = Math.min(a.h, a.h + dy);
  let n = 0;
  let sa = 0;
  let sb = 0;
  let saa = 0;
  let sbb = 0;
  let sab = 0;
  for (let y = y0; y < y1; y++) {
    const ra = y * a.w;
    const rb = (y - dy) * a.w - dx;
    for (let x = x0; x < x1; x++) {
      if (!a.valid[ra + x] || !b.valid[rb + x]) continue;
      const u = a.value[ra + x]!;
      const v = b.value[rb + x]!;
      n++;
      sa += u;
      sb += v;
      saa += u * u;
      sbb += v * v;
      sab += u * v;
    }
  }
  const area = a.w * a.h;
  if (n < Math.max(12, area * 0.05)) return undefined;
  const va = saa - (sa * sa) / n;
  const vb = sbb - (sb * sb) / n;
  return va > 1e-3 * n && vb > 1e-3 * n
    ? { r: (sab - (sa * sb) / n) / Math.sqrt(va * vb), n, area }
    : undefined;
}

/** First frame's px to second frame's px, from their first corners: two rows of three. */
type Affine = [number, number, number, number, number, number];
const doubled = ([a, b, c, d, e, f]: Affine): Affine => [a, b, c * 2, d, e, f * 2];

function middleOf([a, b, c, d, e, f]: Affine, w: number, h: number): [number, number] {
  const det = a * e - b * d || 1;
  const u = w / 2 - c;
  const v = h / 2 - f;
  return [(e * u - b * v) / det - w / 2, (a * v - d * u) / det - h / 2];
}

/**
 * Gauss-Newton for the affine map under which the second frame's values fit the first's best, held
 * to small rolls and shears: turning a tilted camera rolls the picture.
 */
function refine(a: Level, b: Level, start: Affine, rounds: number): Fit | undefined {
  let map: Affine = [...start];
  const X = a.w / 2;
  const Y = a.h / 2;
  const limit = (v: number): number => clamp(v, -3, 3);
  for (let round = 0; round < rounds; round++) {
    const { m, g, n } = equations(a, b, map);
    if (n < Math.max(12, a.w * a.h * 0.05)) break;
    for (const [p, rest] of [
      [0, map[0] - 1],
      [1, map[1]],
      [3, map[3]],
      [4, map[4] - 1],
    ] as const) {
      m[p]![p]! += HOLD;
      g[p]! -= HOLD * rest;
    }
    for (let p = 0; p < 6; p++) {
      m[p]![p]! += 1e-6 * n;
      for (let q = 0; q < p; q++) m[p]![q] = m[q]![p]!;
    }
    const d = solveSymmetric(m, g);
    if (!d) break;
    // the step is about the middle
    const still =
      Math.hypot(d[2]!, d[5]!) < SETTLED && Math.hypot(d[0]!, d[1]!, d[3]!, d[4]!) * X < SETTLED;
    map = [
      map[0] + d[0]!,
      map[1] + d[1]!,
      map[2] + limit(d[2]!) - d[0]! * X - d[1]! * Y,
      map[3] + d[3]!,
      map[4] + d[4]!,
      map[5] + limit(d[5]!) - d[3]! * X - d[4]! * Y,
    ];
    if (still) break;
  }
  return fit(a, b, map);
}

/**
 * Walks over the pixels of the first frame that both show well exposed: the second's place, weights
 * and values.
 */
const at = { i: 0, u: 0, v: 0 };
function place(a: Level, b: Level, m: Affine, x: number, y: number): boolean {
  if (!a.valid[y * a.w + x]) return false;
  const px = m[0] * x + m[1] * y + m[2];
  const py = m[3] * x + m[4] * y + m[5];
  const ix = Math.floor(px);
  const iy = Math.floor(py);
  if (ix < 0 || iy < 0 || ix >= b.w - 1 || iy >= b.h - 1) return false;
  const i = iy * b.w + ix;
  if (!(b.valid[i]! & b.valid[i + 1]! & b.valid[i + b.w]! & b.valid[i + b.w + 1]!)) return false;
  at.i = i;
  at.u = px - ix;
  at.v = py - iy;
  return true;
}

/** The second frame's value at the place that was walked to last. */
function valueAt(b: Level): number {
  const { i, u, v } = at;
  return (
    (b.value[i]! * (1 - u) + b.value[i + 1]! * u) * (1 - v) +
    (b.value[i + b.w]! * (1 - u) + b.value[i + b.w + 1]! * u) * v
  );
}

/**
 * The normal equations of one step; sums in variables of their own, since all of grouping's time
 * goes here.
 */
function equations(a: Level, b: Level, map: Affine): { m: number[][]; g: number[]; n: number } {
  const { w: aw, h: ah, value: av, valid: aValid } = a;
  const { w, h, value, valid } = b;
  const [m0, m1, m2, m3, m4, m5] = map;
  const cx = aw / 2;
  const cy = ah / 2;
  let n = 0;
  let axx = 0;
  let axy = 0;
  let ax = 0;
  let bxx = 0;
  let bxy = 0;
  let bx = 0;
  let ayy = 0;
  let ay = 0;
  let byy = 0;
  let by = 0;
  let a1 = 0;
  let b1 = 0;
  let cxx = 0;
  let cxy = 0;
  let c_x = 0;
  let cyy = 0;
  let c_y = 0;
  let c1 = 0;
  let dx = 0;
  let dy = 0;
  let d1 = 0;
  let fx = 0;
  let fy = 0;
  let f1 = 0;
  for (let y = 0; y < ah; y++)
    for (let x = 0, at = y * aw; x < aw; x++, at++) {
      if (!aValid[at]) continue;
      const px = m0 * x + m1 * y + m2;
      const py = m3 * x + m4 * y + m5;
      const ix = Math.floor(px);
      const iy = Math.floor(py);
      if (ix < 0 || iy < 0 || ix >= w - 1 || iy >= h - 1) continue;
      const i = iy * w + ix;
      if (!(valid[i]! & valid[i + 1]! & valid[i + w]! & valid[i + w + 1]!)) continue;
      const u = px - ix;
      const v = py - iy;
      const p00 = value[i]!;
      const p01 = value[i + 1]!;
      const p10 = value[i + w]!;
      const p11 = value[i + w + 1]!;
      const upper = p01 - p00;
      const lower = p11 - p10;
      const gx = upper * (1 - v) + lower * v;
      const gy = (p10 - p00) * (1 - u) + (p11 - p01) * u;
      const e = av[at]! - (p00 + upper * u) * (1 - v) - (p10 + lower * u) * v;
      const k = 1 / (0.3 + Math.abs(e));
      const X = x - cx;
      const Y = y - cy;
      const xx = k * gx * gx;
      const xy = k * gx * gy;
      const yy = k * gy * gy;
      const ex = k * gx * e;
      const ey = k * gy * e;
      const XX = X * X;
      const XY = X * Y;
      const YY = Y * Y;
      // products of the slope along x, of both, and along y, with the powers of the place
      axx += xx * XX;
      axy += xx * XY;
      ax += xx * X;
      ayy += xx * YY;
      ay += xx * Y;
      a1 += xx;
      bxx += xy * XX;
      bxy += xy * XY;
      bx += xy * X;
      byy += xy * YY;
      by += xy * Y;
      b1 += xy;
      cxx += yy * XX;
      cxy += yy * XY;
      c_x += yy * X;
      cyy += yy * YY;
      c_y += yy * Y;
      c1 += yy;
      dx += ex * X;
      dy += ex * Y;
      d1 += ex;
      fx += ey * X;
      fy += ey * Y;
      f1 += ey;
      n++;
    }
  return {
    n,
    g: [dx, dy, d1, fx, fy, f1],
    m: [
      [axx, axy, ax, bxx, bxy, bx],
      [0, ayy, ay, bxy, byy, by],
      [0, 0, a1, bx, by, b1],
      [0, 0, 0, cxx, cxy, c_x],
      [0, 0, 0, 0, cyy, c_y],
      [0, 0, 0, 0, 0, c1],
    ],
  };
}

interface Fit {
  map: Affine;
  r: number;
  n: number;
  area: number;
}
function fit(a: Level, b: Level, map: Affine): Fit | undefined {
  let n = 0;
  let sa = 0;
  let sb = 0;
  let saa = 0;
  let sbb = 0;
  let sab = 0;
  for (let y = 0; y < a.h; y++)
    for (let x = 0; x < a.w; x++) {
      if (!place(a, b, map, x, y)) continue;
      const s = a.value[y * a.w + x]!;
      const t = valueAt(b);
      n++;
      sa += s;
      sb += t;
      saa += s * s;
      sbb += t * t;
      sab += s * t;
    }
  const area = a.w * a.h;
  const va = saa - (sa * sa) / n;
  const vb = sbb - (sb * sb) / n;
  return n >= Math.max(12, area * 0.05) && va > 1e-3 * n && vb > 1e-3 * n
    ? { map, r: (sab - (sa * sb) / n) / Math.sqrt(va * vb), n, area }
    : undefined;
}

/**
 * Parts of a frame across and down; EV of variance and samples from which on one has texture;
 * correlation at which it fits; parts that tell.
 */
const PARTS = 6;
const TEXTURE = 0.1 ** 2;
const SAMPLES = 24;
const FITS = 0.4;
const TELL = 6;

/** Only frames that lie on each other are asked which of their parts fit. */
function alikeWhereNear(shift: number, a: Level, b: Level, map: Affine): Pick<PairView, "alike"> {
  const alike = shift < ON ? alikeParts(a, b, map) : undefined;
  return alike === undefined ? {} : { alike };
}

/**
 * The share of textured parts that correlate if neither frame is moved; seen coarsely, so that a
 * shake does not matter.
 */
export function alikeAsTheyLie(a: FrameSignature, b: FrameSignature): number | undefined {
  if (a.width !== b.width || a.height !== b.height) return undefined;
  const [A, B] = [a, b].map((signature) => pyramidOf(signature, ...UNKNOWN_LENS[0])[1]!) as [
    Level,
    Level,
  ];
  return alikeParts(A, B, [1, 0, 0, 0, 1, 0]);
}

/**
 * Of the parts that have texture in both, the share that correlates; undefined where too few tell.
 */
function alikeParts(a: Level, b: Level, map: Affine): number | undefined {
  const sums = Array.from({ length: PARTS * PARTS }, () => ({
    n: 0,
    a: 0,
    b: 0,
    aa: 0,
    bb: 0,
    ab: 0,
  }));
  for (let y = 0; y < a.h; y++)
    for (let x = 0; x < a.w; x++) {
      if (!place(a, b, map, x, y)) continue;
      const p = a.value[y * a.w + x]!;
      const q = valueAt(b);
      const s = sums[Math.floor((y * PARTS) / a.h) * PARTS + Math.floor((x * PARTS) / a.w)]!;
      s.n++;
      s.a += p;
      s.b += q;
      s.aa += p * p;
      s.bb += q * q;
      s.ab += p * q;
    }
  let informative = 0;
  let fits = 0;
  for (const s of sums) {
    const va = s.aa - (s.a * s.a) / s.n;
    const vb = s.bb - (s.b * s.b) / s.n;
    if (s.n < SAMPLES || Math.min(va, vb) < TEXTURE * s.n) continue;
    informative++;
    if (s.ab - (s.a * s.b) / s.n > FITS * Math.sqrt(va * vb)) fits++;
  }
  return informative < TELL ? undefined : fits / informative;
}

/** EV of b against a where both show the same: the median of the differences of their codes. */
function gainOf(a: Level, b: Level, map: Affine): number {
  const counts = new Int32Array(511);
  let n = 0;
  for (let y = 0; y < a.h; y++)
    for (let x = 0; x < a.w; x++)
      if (place(a, b, map, x, y)) {
        counts[255 + b.code[at.i]! - a.code[y * a.w + x]!]!++;
        n++;
      }
  let below = 0;
  let middle = 0;
  while (middle < 510 && (below += counts[middle]!) <= n >> 1) middle++;
  return n ? evBetween(0, middle - 255) : 0;
}

/** The best few that are not neighbours of a better one. */
function distinct<T extends { dx: number; dy: number }>(
  sorted: readonly T[],
  distance: number,
  most: number,
): T[] {
  const kept: T[] = [];
  for (const f of sorted) {
    if (kept.length === most) break;
    if (kept.every((k) => Math.max(Math.abs(k.dx - f.dx), Math.abs(k.dy - f.dy)) >= distance))
      kept.push(f);
  }
  return kept;
}

function pyramidOf(signature: FrameSignature, focal: number, tilt: number): Level[] {
  const all = pyramids.get(signature) ?? new Map<string, Level[]>();
  const key = `${focal} ${tilt}`;
  pyramids.set(signature, all);
  let levels = all.get(key);
  if (!levels) {
    const first = onSphere(signature, focal, tilt);
    const half = halved(first);
    levels = [first, half, halved(half)].map((l) => flattened(l, Math.max(2, Math.round(l.w / 6))));
    all.set(key, levels);
  }
  return levels;
}

/** Where samples by longitude and latitude come from, for signatures of one size; -1 is outside. */
const sphereMaps = new Map<string, { w: number; h: number; from: Int32Array }>();

/**
 * Samples by longitude and latitude, as dense as in the frame's middle; the camera is taken to look
 * up by `tilt` degrees.
 */
function onSphere(signature: FrameSignature, focal: number, tilt: number): Level {
  const { w, h, from } = sphereMap(signature, focal, tilt);
  const code = new Uint8Array(w * h);
  const value = new Float32Array(w * h);
  const valid = new Uint8Array(w * h);
  for (let i = 0; i < code.length; i++) {
    const v = from[i]! < 0 ? 0 : signature.log[from[i]!]!;
    code[i] = v;
    value[i] = v / 16;
    valid[i] = v >= LOWEST && v <= HIGHEST ? 1 : 0;
  }
  return { w, h, code, value, valid };
}
function sphereMap(
  signature: Pick<FrameSignature, "width" | "height">,
  focal: number,
  tilt: number,
): { w: number; h: number; from: Int32Array } {
  const key = `${signature.width} ${signature.height} ${focal} ${tilt}`;
  const known = sphereMaps.get(key);
  if (known) return known;
  const long = Math.max(signature.width, signature.height);
  const f = focal * long;
  const w = Math.min(
    2 * long,
    2 * Math.floor(f * Math.atan(signature.width / 2 / f) * (tilt ? 1.15 : 1)),
  );
  const h = 2 * Math.floor(f * Math.atan(signature.height / 2 / f));
  const from = new Int32Array(w * h);
  const c = Math.cos((tilt * Math.PI) / 180);
  const s = Math.sin((tilt * Math.PI) / 180);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      // latitudes are counted from the middle of the frame
      const lon = (x + 0.5 - w / 2) / f;
      const lat = (y + 0.5 - h / 2) / f - (tilt * Math.PI) / 180;
      const X = Math.sin(lon) * Math.cos(lat);
      const Y0 = Math.sin(lat);
      const Z0 = Math.cos(lon) * Math.cos(lat);
      const Y = Y0 * c + Z0 * s;
      const Z = Z0 * c - Y0 * s;
      const px = Math.floor((X / Z) * f + signature.width / 2);
      const py = Math.floor((Y / Z) * f + signature.height / 2);
      from[y * w + x] =
        Z < 0.05 || px < 0 || py < 0 || px >= signature.width || py >= signature.height
          ? -1
          : py * signature.width + px;
    }
  const made = { w, h, from };
  sphereMaps.set(key, made);
  return made;
}

function halved(l: Level): Level {
  const w = l.w >> 1;
  const h = l.h >> 1;
  const out: Level = {
    w,
    h,
    value: new Float32Array(w * h),
    valid: new Uint8Array(w * h),
    code: new Uint8Array(w * h),
  };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let s = 0;
      let n = 0;
      for (const i of [
        y * 2 * l.w + x * 2,
        y * 2 * l.w + x * 2 + 1,
        (y * 2 + 1) * l.w + x * 2,
        (y * 2 + 1) * l.w + x * 2 + 1,
      ])
        if (l.valid[i]) {
          s += l.value[i]!;
          n++;
        }
      out.value[y * w + x] = n ? s / n : 0;
      out.code[y * w + x] = n ? Math.round((s / n) * 16) : 0;
      out.valid[y * w + x] = n >= 2 ? 1 : 0;
    }
  return out;
}

/** Each value against the mean of the well exposed ones round it. */
function flattened(l: Level, r: number): Level {
  const { w, h } = l;
  const sums = new Float64Array((w + 1) * (h + 1));
  const counts = new Float64Array((w + 1) * (h + 1));
  const value = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    let s = 0;
    let n = 0;
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const o = (y + 1) * (w + 1) + x + 1;
      if (l.valid[i]) {
        s += l.value[i]!;
        n++;
      }
      sums[o] = sums[o - w - 1]! + s;
      counts[o] = counts[o - w - 1]! + n;
    }
  }
  const over = (t: Float64Array, x0: number, y0: number, x1: number, y1: number): number =>
    t[y1 * (w + 1) + x1]! - t[y0 * (w + 1) + x1]! - t[y1 * (w + 1) + x0]! + t[y0 * (w + 1) + x0]!;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const box = [
        Math.max(0, x - r),
        Math.max(0, y - r),
        Math.min(w, x + r + 1),
        Math.min(h, y + r + 1),
      ] as const;
      const n = over(counts, ...box);
      value[y * w + x] = n ? l.value[y * w + x]! - over(sums, ...box) / n : 0;
    }
  return { ...l, value };
}
