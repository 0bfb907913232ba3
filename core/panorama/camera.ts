import { apply, multiply, type Matrix3 } from "../math/matrix3";
import { dot, unit, type Vector } from "../math/vector";
import { clamp } from "../math/clamp";

/** A frame's camera: looks along +z, x right, y down. */
export interface Camera {
  /** camera to world, row-major */
  rotation: number[];
  /** px of the full-size frame */
  focalPx: number;
  /**
   * radial distortion r' = r (1 + k1 r^2 + k2 r^4 + k3 r^6), r as the lens draws the angle off the
   * axis (Brown 1966)
   */
  distortion: [number, number, number];
  width: number;
  height: number;
  /** where the lens's axis meets the frame (the principal point), px; in its middle by default */
  centre?: readonly [number, number];
  /** rectilinear by default */
  lens?: LensKind;
  /** radius of the image circle about the centre, px, where the frame is larger than that */
  circle?: number;
  /**
   * of a frame taken from beside the others that shows a plane: by how far, in distances of the
   * plane from the others' place; the plane's normal there; and the least cosine off it at which
   * the frame is believed
   */
  offset?: { by: Vector; normal: Vector; reach: number };
}
export const LENS_KINDS = ["rectilinear", "equidistant", "equisolid"] as const;
export type LensKind = (typeof LENS_KINDS)[number];
/**
 * How a lens draws an angle off its axis, in focal lengths; the way back; and how much larger it
 * draws there outwards.
 *
 * @see Ray, "Applied Photographic Optics", 2002 (projections of fisheye lenses)
 */
export const DRAWN: Record<
  LensKind,
  {
    radius(angle: number): number;
    angle(radius: number): number;
    outwards(angle: number): number;
    most: number;
  }
> = {
  rectilinear: {
    radius: Math.tan,
    angle: Math.atan,
    outwards: (t) => 1 / Math.cos(t) ** 2,
    most: 1.5,
  },
  equidistant: { radius: (t) => t, angle: (r) => Math.min(Math.PI, r), outwards: () => 1, most: 2 },
  equisolid: {
    radius: (t) => 2 * Math.sin(t / 2),
    angle: (r) => 2 * Math.asin(Math.min(1, r / 2)),
    outwards: (t) => Math.cos(t / 2),
    most: 2,
  },
};

/**
 * How much larger than at its middle a lens draws what lies at a distance of r focal lengths from
 * there: outwards and across.
 */
export function enlargement(lens: LensKind, r: number): { outwards: number; across: number } {
  const t = Math.min(DRAWN[lens].most, DRAWN[lens].angle(r));
  return t < 1e-6
    ? { outwards: 1, across: 1 }
    : { outwards: DRAWN[lens].outwards(t), across: DRAWN[lens].radius(t) / Math.sin(t) };
}

/** Of a camera what its lens decides. */
export type LensFit = Pick<Camera, "focalPx" | "distortion" | "centre">;
/** What was fitted of a lens, without the camera's rotation. */
export const fitOf = ({ focalPx, distortion, centre }: LensFit): LensFit => ({
  focalPx,
  distortion,
  ...(centre && { centre }),
});
/** Where the lens's axis meets the frame, px; its middle if it was not fitted. */
export const centreOf = ({
  centre,
  width,
  height,
}: Pick<Camera, "centre" | "width" | "height">): readonly [number, number] =>
  centre ?? [width / 2, height / 2];

/** Share of the image circle in which a frame is believed: its rim is dark and soft. */
const WITHIN_CIRCLE = 0.97;
/**
 * Whether a place lies in the frame, `margin` px from its border at least, and in its image circle.
 */
export const inFrame = (
  c: Pick<Camera, "width" | "height" | "centre" | "circle">,
  [x, y]: readonly [number, number],
  margin = 0,
): boolean =>
  x >= margin &&
  y >= margin &&
  x < c.width - margin &&
  y < c.height - margin &&
  (c.circle === undefined ||
    Math.hypot(x - centreOf(c)[0], y - centreOf(c)[1]) < WITHIN_CIRCLE * c.circle - margin);
/** The place, or the one nearest to it on the image circle's rim. */
export function drawnIn(
  c: Pick<Camera, "width" | "height" | "centre" | "circle">,
  [x, y]: readonly [number, number],
): [number, number] {
  const [cx, cy] = centreOf(c);
  const dx = x - cx;
  const dy = y - cy;
  const by =
    c.circle === undefined
      ? 1
      : Math.min(1, (WITHIN_CIRCLE * c.circle) / Math.max(1e-9, Math.hypot(dx, dy)));
  return [cx + dx * by, cy + dy * by];
}

/**
 * Where a world direction is seen, in px; undefined behind the camera or beyond where the
 * distortion turns back.
 */
export function seen(c: Camera, direction: readonly number[]): [number, number] | undefined {
  let world = direction;
  if (c.offset) {
    const { by, normal, reach } = c.offset;
    const towards = dot(normal, direction);
    if (towards <= Math.max(1e-6, reach * Math.hypot(...direction))) return undefined;
    world = direction.map((v, k) => v - towards * by[k]!);
  }
  const r = c.rotation;
  const x = r[0]! * world[0]! + r[3]! * world[1]! + r[6]! * world[2]!;
  const y = r[1]! * world[0]! + r[4]! * world[1]! + r[7]! * world[2]!;
  const z = r[2]! * world[0]! + r[5]! * world[1]! + r[8]! * world[2]!;
  const {
    lens = "rectilinear",
    distortion: [k1, k2, k3],
  } = c;
  let a: number;
  let b: number;
  if (lens === "rectilinear") {
    if (z <= 1e-6) return undefined;
    a = x / z;
    b = y / z;
  } else {
    const off = Math.sqrt(x * x + y * y);
    const t = Math.atan2(off, z);
    if (t > DRAWN[lens].most) return undefined;
    const by = off < 1e-12 ? 1 / Math.max(1e-12, z) : DRAWN[lens].radius(t) / off;
    a = x * by;
    b = y * by;
  }
  const q = a * a + b * b;
  if (1 + q * (3 * k1 + q * (5 * k2 + q * 7 * k3)) <= 0) return undefined;
  const s = c.focalPx * (1 + q * (k1 + q * (k2 + q * k3)));
  return c.centre
    ? [c.centre[0] + a * s, c.centre[1] + b * s]
    : [c.width / 2 + a * s, c.height / 2 + b * s];
}

/** The radius, in focal lengths, that the distortion draws at d (Newton's method). */
export function undistorted(d: number, [k1, k2, k3]: Camera["distortion"]): number {
  let r = d;
  if (k1 || k2 || k3)
    for (let i = 0; i < 8; i++) {
      const q = r * r;
      const by =
        (r * (1 + q * (k1 + q * (k2 + q * k3))) - d) /
        Math.max(0.2, 1 + q * (3 * k1 + q * (5 * k2 + q * 7 * k3)));
      r -= by;
      if (Math.abs(by) < 1e-14) break;
    }
  return r;
}

/** The direction in the camera's own frame that a pixel looks along, of any length. */
export function rayOf(
  c: Pick<Camera, "focalPx" | "distortion" | "centre" | "width" | "height" | "lens">,
  x: number,
  y: number,
): Vector {
  const a = (x - (c.centre ? c.centre[0] : c.width / 2)) / c.focalPx;
  const b = (y - (c.centre ? c.centre[1] : c.height / 2)) / c.focalPx;
  const d = Math.sqrt(a * a + b * b);
  if (d < 1e-12) return [a, b, 1];
  const r = undistorted(d, c.distortion);
  if (!c.lens || c.lens === "rectilinear") return [(a * r) / d, (b * r) / d, 1];
  const t = DRAWN[c.lens].angle(r);
  const s = Math.sin(t) / d;
  return [a * s, b * s, Math.cos(t)];
}

/**
 * Directions from one to another along what is straight in the world: `steps` and one of them, of
 * length 1.
 */
export function between(from: readonly number[], to: readonly number[], steps: number): Vector[] {
  const a = unit(from);
  const b = unit(to);
  const angle = Math.acos(clamp(dot(a, b), -1, 1));
  const s = Math.sin(angle);
  return Array.from({ length: steps + 1 }, (_, i) => {
    const t = i / steps;
    return s < 1e-9
      ? unit(a.map((v, k) => v + t * (b[k]! - v)))
      : unit(a.map((v, k) => (v * Math.sin((1 - t) * angle) + b[k]! * Math.sin(t * angle)) / s));
  });
}

/** The direction that a pixel shows, seen from the others' place, of any length. */
export const shownBy = (c: Camera, x: number, y: number): Vector => shownAlong(c, rayOf(c, x, y));
/** The same for a direction in the camera's own frame. */
export function shownAlong(c: Camera, own: Vector): Vector {
  const ray = apply(c.rotation, own);
  if (!c.offset) return ray;
  const { by, normal } = c.offset;
  const towards = dot(normal, ray) / (1 - dot(normal, by));
  return ray.map((v, k) => v + towards * by[k]!) as Vector;
}
/** The unit direction in the world of a place of the frame, px. */
export const worldRay = (c: Camera, x: number, y: number): Vector => unit(shownBy(c, x, y));
/** The camera in a world that was turned. */
export const rotated = (c: Camera, by: Matrix3): Camera => ({
  ...c,
  rotation: multiply(by, c.rotation),
  ...(c.offset
    ? { offset: { ...c.offset, by: apply(by, c.offset.by), normal: apply(by, c.offset.normal) } }
    : {}),
});
