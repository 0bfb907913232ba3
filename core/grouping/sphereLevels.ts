import { type FrameSignature, LOWEST, HIGHEST } from "./signature";

export interface Level {
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

/** A signature on the sphere round its camera, in three levels, the finest first; kept with it. */
export function pyramidOf(signature: FrameSignature, focal: number, tilt: number): Level[] {
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
