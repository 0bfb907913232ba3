import { bentPlace, flatPlace, type Bend } from "./bend";
import { inFrame, seen, type Camera } from "../camera";
import { unit, type Vector } from "../../math/vector";
import { clamp } from "../../math/clamp";

export const PROJECTIONS = [
  "rectilinear",
  "cylindrical",
  "equirectangular",
  "stereographic",
  "mercator",
  "panini",
] as const;
export type Projection = (typeof PROJECTIONS)[number];

/** Where the picture lies on its plane: x = centreX + u * pxPerRadian, and so down. */
export interface Canvas {
  projection: Projection;
  /**
   * of a Panini picture: from how far behind the middle the cylinder is drawn, 0 to 1.5 of its
   * radius; 1 if not said
   */
  distance?: number;
  pxPerRadian: number;
  centreX: number;
  centreY: number;
  width: number;
  height: number;
  /** a full turn, whose two ends meet */
  closed: boolean;
  /**
   * a picture bent to its rectangle: the mesh, and the flat picture's size, to which scale and
   * centre belong
   */
  bend?: {
    mesh: Bend;
    width: number;
    height: number;
  };
}

/**
 * Plane coordinates of a world direction (unit length, z ahead, y down); undefined where the
 * projection does not reach.
 */
export function toPlane(
  p: Projection,
  [X, Y, Z]: readonly number[],
  distance = 1,
): [number, number] | undefined {
  const flat = Math.sqrt(X! * X! + Z! * Z!);
  const lon = Math.atan2(X!, Z!);
  switch (p) {
    case "rectilinear":
      return Z! > 0.05 ? [X! / Z!, Y! / Z!] : undefined;
    case "cylindrical":
      return flat > 0.1 ? [lon, Y! / flat] : undefined;
    case "equirectangular":
      return [lon, Math.atan2(Y!, flat)];
    case "mercator":
      return flat > 0.05 ? [lon, Math.asinh(Y! / flat)] : undefined;
    case "stereographic":
      return Z! > -0.9 ? [(2 * X!) / (1 + Z!), (2 * Y!) / (1 + Z!)] : undefined;
    // the general Pannini (Sharpless, Postle, German, "Pannini: a new projection for rendering wide
    // angle perspective images", 2010)
    case "panini": {
      if (flat < 0.1 || Z! / flat < farthest(distance)) return undefined;
      const s = (distance + 1) / (distance + Z! / flat);
      return [(s * X!) / flat, (s * Y!) / flat];
    }
  }
}

/** The least cosine of a longitude that a Panini picture of this distance reaches. */
const farthest = (distance: number): number => 0.05 - 0.65 * Math.min(1, distance);

/**
 * The world direction that is shown at a place of the plane; undefined outside the sphere's
 * picture.
 */
export function fromPlane(p: Projection, u: number, v: number, distance = 1): Vector | undefined {
  const around = (lon: number, lat: number): Vector => [
    Math.sin(lon) * Math.cos(lat),
    Math.sin(lat),
    Math.cos(lon) * Math.cos(lat),
  ];
  switch (p) {
    case "rectilinear":
      return unit([u, v, 1]);
    case "cylindrical":
      return Math.abs(u) <= Math.PI + 1e-9 ? around(u, Math.atan(v)) : undefined;
    case "equirectangular":
      return Math.abs(v) <= Math.PI / 2 + 1e-9 && Math.abs(u) <= Math.PI + 1e-9
        ? around(u, v)
        : undefined;
    case "mercator":
      return Math.abs(u) <= Math.PI + 1e-9 ? around(u, Math.atan(Math.sinh(v))) : undefined;
    case "stereographic": {
      const q = (u * u + v * v) / 4;
      return [u / (1 + q), v / (1 + q), (1 - q) / (1 + q)];
    }
    case "panini": {
      const k = (u / (distance + 1)) ** 2;
      const under = (k * distance) ** 2 - (k + 1) * (k * distance ** 2 - 1);
      if (under < 0) return undefined;
      const c = (Math.sqrt(under) - k * distance) / (k + 1);
      const s = (distance + 1) / (distance + c);
      return unit([u / s, v / s, c]);
    }
  }
}

/** Degrees of longitude and latitude that the cameras cover. */
export interface Coverage {
  width: number;
  height: number;
  seen: Uint8Array;
  /** degrees a cell */
  step: number;
}

/** Which directions some camera sees, on a grid of longitude and latitude. */
export function coverageOf(cameras: readonly Camera[], step = 1): Coverage {
  const width = Math.round(360 / step);
  const height = Math.round(180 / step);
  const out = new Uint8Array(width * height);
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const lon = ((i + 0.5) * step - 180) * (Math.PI / 180);
      const lat = ((j + 0.5) * step - 90) * (Math.PI / 180);
      const d = [Math.sin(lon) * Math.cos(lat), Math.sin(lat), Math.cos(lon) * Math.cos(lat)];
      if (
        cameras.some((c) => {
          const p = seen(c, d);
          return p && inFrame(c, p);
        })
      )
        out[j * width + i] = 1;
    }
  return { width, height, seen: out, step };
}

/** The projection that shows a field of view without bending it more than it must be. */
export function likelyProjection({ width, height, seen: on, step }: Coverage): Projection {
  let columns = 0;
  let low = height;
  let high = -1;
  for (let i = 0; i < width; i++) {
    let any = false;
    for (let j = 0; j < height; j++)
      if (on[j * width + i]) {
        any = true;
        low = Math.min(low, j);
        high = Math.max(high, j);
      }
    if (any) columns++;
  }
  const across = columns * step;
  const steepest = Math.max(90 - low * step, (high + 1) * step - 90);
  if (across <= 72 && steepest <= 36) return "rectilinear";
  if (steepest <= 52) return "cylindrical";
  return "equirectangular";
}

/**
 * Degrees that a picture shows to the left, right, above and below the middle of the view; by
 * default all that is covered.
 */
export type Extent = readonly [number, number, number, number];
/** What a canvas is asked to be. */
export interface Wanted {
  projection: Projection | "auto";
  distance?: number;
  extent?: Extent;
  /** px across; as large as the frames are at the centre if not said */
  width?: number | undefined;
  /** pixels at most */
  most: number;
  /** degrees between the directions that are looked at to learn what is covered */
  step?: number;
}

const RADIANS = Math.PI / 180;
/**
 * A wide view on a plane has no end; what lies beyond five focal lengths is not worth its pixels.
 */
const reachOf = (p: Projection): number => {
  if (p === "rectilinear") return 2.5;
  if (p === "stereographic" || p === "panini") return 4;
  return 7;
};
const isRound = (p: Projection): boolean =>
  p === "cylindrical" || p === "equirectangular" || p === "mercator";

/** The canvas that holds all that is covered, or as far to each side as is wanted. */
export function canvasFor(
  cameras: readonly Camera[],
  { projection: asked, distance = 1, extent, width, most, step }: Wanted,
): Canvas {
  const cover = coverageOf(cameras, step);
  const projection = asked === "auto" ? likelyProjection(cover) : asked;
  const plane = (d: Vector): [number, number] | undefined => toPlane(projection, d, distance);
  let u0 = Infinity;
  let u1 = -Infinity;
  let v0 = Infinity;
  let v1 = -Infinity;
  let columns = 0;
  for (let i = 0; i < cover.width; i++) {
    let any = false;
    for (let j = 0; j < cover.height; j++) {
      if (!cover.seen[j * cover.width + i]) continue;
      any = true;
      // the cell's corners, so that its whole area is held
      for (const [di, dj] of [
        [0, 0],
        [1, 0],
        [0, 1],
        [1, 1],
      ] as const) {
        const lon = Math.min(
          Math.PI - 1e-9,
          Math.max(1e-9 - Math.PI, ((i + di) * cover.step - 180) * RADIANS),
        );
        const lat = ((j + dj) * cover.step - 90) * RADIANS;
        const p = plane([
          Math.sin(lon) * Math.cos(lat),
          Math.sin(lat),
          Math.cos(lon) * Math.cos(lat),
        ]);
        if (p) {
          u0 = Math.min(u0, p[0]);
          u1 = Math.max(u1, p[0]);
          v0 = Math.min(v0, p[1]);
          v1 = Math.max(v1, p[1]);
        }
      }
    }
    if (any) columns++;
  }
  let closed = isRound(projection) && columns === cover.width;
  if (closed) {
    u0 = -Math.PI;
    u1 = Math.PI;
  }
  const reach = reachOf(projection);
  if (extent) {
    const [left, right, up, down] = extent.map(
      (degrees) => Math.min(179.999, degrees) * RADIANS,
    ) as [number, number, number, number];
    const beside = (lon: number): number => plane([Math.sin(lon), 0, Math.cos(lon)])?.[0] ?? reach;
    const above = (lat: number): number =>
      (lat < Math.PI / 2 - 1e-3 || projection === "equirectangular"
        ? plane([0, Math.sin(lat), Math.cos(lat)])?.[1]
        : undefined) ?? reach;
    closed &&= left + right > 2 * Math.PI - 1e-3;
    if (!closed) {
      u0 = -beside(left);
      u1 = beside(right);
    }
    v0 = -above(Math.min(Math.PI / 2, up));
    v1 = above(Math.min(Math.PI / 2, down));
  }
  u0 = Math.max(u0, -reach);
  u1 = Math.min(u1, reach);
  v0 = Math.max(v0, -reach);
  v1 = Math.min(v1, reach);
  // px a unit of what lies ahead: of a plane, in its own distance
  const focals = cameras
    .map((c) =>
      c.offset
        ? c.focalPx / (1 - c.offset.by.reduce((s, v, k) => s + v * c.offset!.normal[k]!, 0))
        : c.focalPx,
    )
    .sort((a, b) => a - b);
  const natural = focals[focals.length >> 1]!;
  const limit = Math.sqrt(most / ((u1 - u0) * (v1 - v0)));
  const pxPerRadian = Math.min(width ? width / (u1 - u0) : natural, limit);
  return {
    projection,
    ...(projection === "panini" && distance !== 1 ? { distance } : {}),
    pxPerRadian,
    centreX: -u0 * pxPerRadian,
    centreY: -v0 * pxPerRadian,
    width: Math.max(1, Math.round((u1 - u0) * pxPerRadian)),
    height: Math.max(1, Math.round((v1 - v0) * pxPerRadian)),
    closed,
  };
}

/**
 * How far a canvas shows to each side of the middle of the view, within what can be asked for: what
 * covers nothing there is as good as half a degree.
 */
export function extentOf(c: Canvas): [number, number, number, number] {
  const beside = (u: number): number => {
    const d = fromPlane(c.projection, u, 0, c.distance);
    return d ? Math.abs(Math.atan2(d[0], d[2])) / RADIANS : 180;
  };
  const above = (v: number): number => {
    const d = fromPlane(c.projection, 0, v, c.distance);
    return d ? Math.abs(Math.atan2(d[1], Math.hypot(d[0], d[2]))) / RADIANS : 90;
  };
  const size = c.bend ?? c;
  const at = [c.centreX, size.width - c.centreX, c.centreY, size.height - c.centreY].map(
    (px) => px / c.pxPerRadian,
  ) as [number, number, number, number];
  const sides: [number, number, number, number] = c.closed
    ? [180, 180, above(at[2]), above(at[3])]
    : [beside(at[0]), beside(at[1]), above(at[2]), above(at[3])];
  return sides.map((v, k) => clamp(v, 0.5, k < 2 ? 180 : 90)) as typeof sides;
}

/** The same picture at 1/downscale of its size. */
export const shrunk = (c: Canvas, downscale: number): Canvas => ({
  ...c,
  pxPerRadian: c.pxPerRadian / downscale,
  centreX: c.centreX / downscale,
  centreY: c.centreY / downscale,
  width: Math.ceil(c.width / downscale),
  height: Math.ceil(c.height / downscale),
  ...(c.bend
    ? { bend: { ...c.bend, width: c.bend.width / downscale, height: c.bend.height / downscale } }
    : {}),
});
/** The direction shown at a pixel of a canvas. */
export function directionAt(c: Canvas, px: number, py: number): Vector | undefined {
  let x = px;
  let y = py;
  if (c.bend) {
    const [u, v] = flatPlace(c.bend.mesh, px / c.width, py / c.height);
    x = u * c.bend.width;
    y = v * c.bend.height;
  }
  const u = (x - c.centreX) / c.pxPerRadian;
  const v = (y - c.centreY) / c.pxPerRadian;
  return fromPlane(
    c.projection,
    c.closed ? wrapped(u) : u,
    c.projection === "equirectangular" ? atPole(v, 1.5 / c.pxPerRadian) : v,
    c.distance,
  );
}
/** A whole number of rows may end a little beyond the pole; they show the pole. */
const atPole = (v: number, beyond: number): number =>
  Math.abs(v) > Math.PI / 2 && Math.abs(v) < Math.PI / 2 + beyond
    ? (Math.sign(v) * Math.PI) / 2
    : v;
/**
 * The pixel of a canvas at which a direction is shown; undefined where the projection does not
 * reach.
 */
export function pixelOf(c: Canvas, direction: readonly number[]): [number, number] | undefined {
  const p = toPlane(c.projection, direction, c.distance);
  if (!p) return undefined;
  const x = p[0] * c.pxPerRadian + c.centreX;
  const y = p[1] * c.pxPerRadian + c.centreY;
  if (!c.bend) return [x, y];
  const [u, v] = bentPlace(c.bend.mesh, x / c.bend.width, y / c.bend.height);
  return [u * c.width, v * c.height];
}
const wrapped = (u: number): number => {
  if (u > Math.PI) return u - 2 * Math.PI;
  if (u < -Math.PI) return u + 2 * Math.PI;
  return u;
};
