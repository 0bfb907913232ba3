import { apply, IDENTITY, multiply, transpose } from "../../math/matrix3";
import { centreOf, DRAWN, undistorted, type Camera } from "../camera";
import { dot } from "../../math/vector";
import type { VerifiedPair } from "../ties/verifyPair";

/**
 * Parameters of a lens: log of its focal length, two terms of its distortion, and its centre in
 * shares of the long edge.
 */
const OF_LENS = 5;

/**
 * Where a camera draws a direction of its own frame, px to `px`; how that moves with the direction
 * (two rows of three) to `slopes`, and with its lens's parameters (two rows of five) to `lens`.
 *
 * @returns false, with nothing written, where it draws nothing
 */
function drawAt(
  c: Camera,
  x: number,
  y: number,
  z: number,
  px: Float64Array,
  slopes: Float64Array,
  lens: Float64Array,
): boolean {
  const {
    focalPx: f,
    distortion: [k1, k2, k3],
    lens: kind = "rectilinear",
  } = c;
  const [cx, cy] = centreOf(c);
  const long = Math.max(c.width, c.height);
  let u: number;
  let v: number;
  let ux: number;
  let uy: number;
  let uz: number;
  let vx: number;
  let vy: number;
  let vz: number;
  if (kind === "rectilinear") {
    if (z <= 1e-6) return false;
    u = x / z;
    v = y / z;
    ux = vy = 1 / z;
    uy = vx = 0;
    uz = -u / z;
    vz = -v / z;
  } else {
    const off = Math.max(1e-9, Math.hypot(x, y));
    const t = Math.atan2(off, z);
    const drawn = DRAWN[kind];
    if (t > drawn.most) return false;
    // u = x g, v = y g
    const square = off * off + z * z;
    const r = drawn.radius(t);
    const by = drawn.outwards(t);
    const g = r / off;
    const across = ((by * z) / square - g) / (off * off);
    const along = -by / square;
    u = x * g;
    v = y * g;
    ux = g + x * x * across;
    uy = vx = x * y * across;
    vy = g + y * y * across;
    uz = x * along;
    vz = y * along;
  }
  const q = u * u + v * v;
  const p = 1 + q * (k1 + q * (k2 + q * k3));
  const by = 2 * (k1 + q * (2 * k2 + q * 3 * k3));
  if (p + q * by <= 0) return false;
  px[0] = cx + f * u * p;
  px[1] = cy + f * v * p;
  const uu = f * (p + u * u * by);
  const uv = f * u * v * by;
  const vv = f * (p + v * v * by);
  slopes[0] = uu * ux + uv * vx;
  slopes[1] = uu * uy + uv * vy;
  slopes[2] = uu * uz + uv * vz;
  slopes[3] = uv * ux + vv * vx;
  slopes[4] = uv * uy + vv * vy;
  slopes[5] = uv * uz + vv * vz;
  for (let k = 0, s = u; k < 2; k++, s = v) {
    lens[k * OF_LENS] = f * s * p;
    lens[k * OF_LENS + 1] = f * s * q;
    lens[k * OF_LENS + 2] = f * s * q * q;
    lens[k * OF_LENS + 3] = k ? 0 : long;
    lens[k * OF_LENS + 4] = k ? long : 0;
  }
  return true;
}

/**
 * The direction in a camera's own frame that a pixel looks along, to `ray`; how it moves with its
 * lens's parameters, three numbers each, to `moves`.
 */
function lookAlong(c: Camera, x: number, y: number, ray: Float64Array, moves: Float64Array): void {
  const {
    focalPx: f,
    distortion: [k1, k2, k3],
    lens: kind = "rectilinear",
  } = c;
  const [cx, cy] = centreOf(c);
  const a = (x - cx) / f;
  const b = (y - cy) / f;
  const d = Math.max(1e-9, Math.hypot(a, b));
  const r = undistorted(d, c.distortion);
  const q = r * r;
  const slope = Math.max(0.2, 1 + q * (3 * k1 + q * (5 * k2 + q * 7 * k3)));
  const straight = kind === "rectilinear";
  const t = straight ? 0 : DRAWN[kind].angle(r);
  const outwards = straight ? 1 : DRAWN[kind].outwards(t);
  const sin = Math.sin(t);
  const cos = Math.cos(t);
  const h = straight ? r / d : sin / d;
  const shift = -Math.max(c.width, c.height) / f;
  ray[0] = a * h;
  ray[1] = b * h;
  ray[2] = straight ? 1 : cos;
  for (let k = 0; k < OF_LENS; k++) {
    let da: number;
    if (k === 0) da = -a;
    else if (k === 3) da = shift;
    else da = 0;
    let db: number;
    if (k === 0) db = -b;
    else if (k === 4) db = shift;
    else db = 0;
    const dd = (a * da + b * db) / d;
    const byDistortion = [0, r * q, r * q * q, 0, 0][k]!;
    const dr = (dd - byDistortion) / slope;
    const dt = dr / outwards;
    const dh = ((straight ? dr : cos * dt) - h * dd) / d;
    const o = k * 3;
    moves[o] = da * h + a * dh;
    moves[o + 1] = db * h + b * dh;
    moves[o + 2] = straight ? 0 : -sin * dt;
  }
}

/**
 * The way of a direction that a camera beside the others sees to the one that they see, as a
 * matrix; or its inverse.
 */
function beside({ offset }: Camera, back: boolean): readonly number[] {
  if (!offset) return IDENTITY;
  const { by, normal } = offset;
  const k = back ? -1 : 1 / (1 - dot(normal, by));
  return IDENTITY.map((v, i) => v + k * by[Math.floor(i / 3)]! * normal[i % 3]!);
}

export interface Reprojection {
  /** Of a tie of the pair. @returns false where the first camera cannot see it */
  at(point: VerifiedPair["points"][number]): boolean;
  /** px between where a sees b's point and where a has it */
  readonly error: Float64Array;
  /**
   * px by which each parameter moves it across and down: of a, of b (turn, and place before the
   * plane), then of their one lens or of both
   */
  readonly across: Float64Array;
  readonly down: Float64Array;
}

/**
 * How the points of two cameras meet, and what that owes to each parameter of theirs, in closed
 * form.
 *
 * @param ofLens  how many parameters of a lens are asked for
 * @see Triggs et al., "Bundle adjustment - a modern synthesis", 1999 (a turn is added from the
 *   left, R' = exp(w) R)
 */
export function reprojection(a: Camera, b: Camera, ofLens: number, oneLens: boolean): Reprojection {
  const own = a.offset && b.offset ? 6 : 3;
  const lensA = 2 * own;
  const lensB = oneLens ? lensA : lensA + ofLens;
  const count = lensB + ofLens;
  const across = new Float64Array(count);
  const down = new Float64Array(count);
  const error = new Float64Array(2);
  // typed arrays throughout: what runs for every point must not meet arrays of several kinds
  const inA = Float64Array.from(transpose(a.rotation));
  const fromWorld = Float64Array.from(multiply(transpose(a.rotation), beside(a, true)));
  const fromB = Float64Array.from(multiply(Array.from(fromWorld), beside(b, false)));
  const whole = Float64Array.from(multiply(Array.from(fromB), b.rotation));
  const r = Float64Array.from(b.rotation);
  const outOfB = beside(b, false);
  const px = new Float64Array(2);
  const slopes = new Float64Array(6);
  const lens = new Float64Array(2 * OF_LENS);
  const ray = new Float64Array(3);
  const moves = new Float64Array(3 * OF_LENS);
  /** what a small way of the direction in a's own frame adds to a parameter */
  const add = (k: number, m: Float64Array, x: number, y: number, z: number): void => {
    const p = m[0]! * x + m[1]! * y + m[2]! * z;
    const q = m[3]! * x + m[4]! * y + m[5]! * z;
    const s = m[6]! * x + m[7]! * y + m[8]! * z;
    across[k]! += slopes[0]! * p + slopes[1]! * q + slopes[2]! * s;
    down[k]! += slopes[3]! * p + slopes[4]! * q + slopes[5]! * s;
  };
  /** of turns about the three axes of what is seen along x, y, z */
  const addTurns = (k: number, m: Float64Array, x: number, y: number, z: number): void => {
    add(k, m, 0, -z, y);
    add(k + 1, m, z, 0, -x);
    add(k + 2, m, -y, x, 0);
  };
  return {
    error,
    across,
    down,
    at(m) {
      lookAlong(b, m[2], m[3], ray, moves);
      const x = r[0]! * ray[0]! + r[1]! * ray[1]! + r[2]! * ray[2]!;
      const y = r[3]! * ray[0]! + r[4]! * ray[1]! + r[5]! * ray[2]!;
      const z = r[6]! * ray[0]! + r[7]! * ray[1]! + r[8]! * ray[2]!;
      let X = x;
      let Y = y;
      let Z = z;
      let towards = 1;
      if (b.offset) [X, Y, Z] = apply(outOfB, [x, y, z]);
      if (a.offset) {
        const { by, normal, reach } = a.offset;
        towards = dot(normal, [X, Y, Z]);
        if (towards <= Math.max(1e-6, reach * Math.hypot(X, Y, Z))) return false;
        X -= towards * by[0];
        Y -= towards * by[1];
        Z -= towards * by[2];
      }
      if (
        !drawAt(
          a,
          inA[0]! * X + inA[1]! * Y + inA[2]! * Z,
          inA[3]! * X + inA[4]! * Y + inA[5]! * Z,
          inA[6]! * X + inA[7]! * Y + inA[8]! * Z,
          px,
          slopes,
          lens,
        )
      )
        return false;
      error[0] = px[0]! - m[0];
      error[1] = px[1]! - m[1];
      across.fill(0);
      down.fill(0);
      // turning a one way moves what it sees the other way
      addTurns(0, inA, -X, -Y, -Z);
      addTurns(own, fromB, x, y, z);
      if (own > 3)
        for (let k = 0; k < 3; k++) {
          const e = [0, 1, 2].map((i) => (i === k ? 1 : 0));
          const { by, normal } = b.offset!;
          const less = 1 - dot(normal, by);
          const t = dot(normal, [x, y, z]) / less;
          const along = e.map((v, i) => t * (v + (by[i]! * normal[k]!) / less));
          add(3 + k, inA, -towards * e[0]!, -towards * e[1]!, -towards * e[2]!);
          add(own + 3 + k, fromWorld, along[0]!, along[1]!, along[2]!);
        }
      for (let k = 0; k < ofLens; k++) {
        across[lensA + k]! += lens[k]!;
        down[lensA + k]! += lens[OF_LENS + k]!;
        add(lensB + k, whole, moves[k * 3]!, moves[k * 3 + 1]!, moves[k * 3 + 2]!);
      }
      return true;
    },
  };
}
