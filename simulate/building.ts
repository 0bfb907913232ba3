import { random } from "../core/math/random";
import { cross, dot, unit, type Vector } from "../core/math/vector";
import { apply, type Matrix3 } from "../core/math/matrix3";
import { srgbResponse, takeFrame, type RadianceImage } from "./camera";
import { lookingAt } from "./sweep";

/** A flat rectangle in space: y down, metres. */
interface Panel {
  corner: Vector;
  /** along its two sides, unit vectors */
  along: Vector;
  down: Vector;
  width: number;
  height: number;
  light: number;
  /** stripes along `down` so far apart, if it has any */
  stripes?: number;
}
interface BuildingCamera {
  width: number;
  height: number;
  focalPx: number;
  /** camera to world, row-major: x right, y down, z ahead */
  rotation: Matrix3;
  /** metres */
  at: Vector;
}

const UP_TO_LEVEL = 1.45;
const add = (a: Vector, b: readonly number[], by: number): Vector => [
  a[0] + b[0]! * by,
  a[1] + b[1]! * by,
  a[2] + b[2]! * by,
];

/** A rectangle that hangs on a wall, turned in its plane by so many degrees. */
function hung(
  wall: Pick<Panel, "along" | "down">,
  middle: Vector,
  [width, height]: readonly [number, number],
  light: number,
  degrees = 0,
): Panel {
  const t = (degrees * Math.PI) / 180;
  const along = unit(wall.along.map((v, i) => v * Math.cos(t) + wall.down[i]! * Math.sin(t)));
  const down = unit(wall.down.map((v, i) => v * Math.cos(t) - wall.along[i]! * Math.sin(t)));
  const corner = add(add(middle, along, -width / 2), down, -height / 2);
  return { corner, along, down, width, height, light };
}

/** The sides of a box that stands on the floor, but for its bottom. */
function box([x, z]: readonly number[], side: number, tall: number, turn: number, light: number) {
  const top = UP_TO_LEVEL - tall;
  const a: Vector = [Math.cos(turn), 0, Math.sin(turn)];
  const b: Vector = [-Math.sin(turn), 0, Math.cos(turn)];
  const down: Vector = [0, 1, 0];
  const first: Vector = [x! - (a[0] + b[0]) * (side / 2), top, z! - (a[2] + b[2]) * (side / 2)];
  const sides = [
    { corner: first, along: a, light },
    { corner: first, along: b, light: light * 0.6 },
    { corner: add(first, b, side), along: a, light: light * 0.8 },
    { corner: add(first, a, side), along: b, light: light * 0.5 },
  ].map((s): Panel => ({ ...s, down, width: side, height: tall }));
  const lid: Panel = {
    corner: first,
    along: a,
    down: b,
    width: side,
    height: side,
    light: light * 1.3,
  };
  return [...sides, lid];
}

const DOWN: Vector = [0, 1, 0];
/** What stands before a wall so that it is seen, metres. */
const OFF_WALL = 0.02;

/** Windows, a door, pictures that hang a little askew, on one wall. */
function furnished(wall: Panel, uniform: () => number): Panel[] {
  const normal = unit(cross(wall.along, wall.down));
  const inwards = dot(normal, wall.corner) > 0 ? normal.map((v) => -v) : normal;
  const place = (share: number, high: number): Vector =>
    add(add(add(wall.corner, wall.along, wall.width * share), DOWN, high), inwards, OFF_WALL);
  const window = 0.9 + uniform() * 0.6;
  const shown = [
    hung(wall, place(0.25 + 0.1 * uniform(), 1.1), [window, 1.3], 0.9),
    hung(wall, place(0.72, wall.height - 1.05), [0.95, 2.1], 0.12),
    hung(wall, place(0.5, 0.9), [0.5, 0.4], 0.07, (uniform() - 0.5) * 4),
    hung(wall, place(0.9, 1), [0.35, 0.5], 0.3, (uniform() - 0.5) * 3),
    hung(wall, place(0.5, wall.height - 0.06), [wall.width, 0.1], 0.5),
  ];
  const [glass] = shown as [Panel];
  const bar = add(
    add(add(glass.corner, glass.along, window / 2), glass.down, 0.65),
    inwards,
    OFF_WALL,
  );
  return [...shown, hung(wall, bar, [0.05, 1.3], 0.25)];
}

/** Rods and edges that lean anyhow: chairs, lamps, plants. */
const clutter = (count: number, uniform: () => number, far: number): Panel[] =>
  Array.from({ length: count }, () => {
    const x = (uniform() - 0.5) * 4;
    const z = 1.5 + uniform() * far;
    const lean = (uniform() - 0.5) * 100;
    const middle: Vector = [x, UP_TO_LEVEL - 0.3 - uniform() * 0.5, z];
    const size = [0.03 + 0.05 * uniform(), 0.3 + 0.6 * uniform()] as const;
    return hung({ along: [1, 0, 0], down: DOWN }, middle, size, 0.05 + 0.5 * uniform(), lean);
  });

/** A room with windows, a door, furniture and things that lean. @param seed  another seed, another room */
function roomPanels(seed: number): Panel[] {
  const uniform = random(seed);
  const [w, d, h] = [4 + 2 * uniform(), 4 + 2 * uniform(), 2.6];
  const top = UP_TO_LEVEL - h;
  const wall = (corner: Vector, along: Vector, width: number, light: number): Panel => ({
    corner,
    along,
    down: DOWN,
    width,
    height: h,
    light,
  });
  const walls = [
    wall([-w / 2, top, d], [1, 0, 0], w, 0.22),
    wall([-w / 2, top, -1], [0, 0, 1], d + 1, 0.3),
    wall([w / 2, top, -1], [0, 0, 1], d + 1, 0.17),
  ];
  const flat = (high: number, light: number): Panel => ({
    corner: [-w / 2, high, -1],
    along: [1, 0, 0],
    down: [0, 0, 1],
    width: w,
    height: d + 1,
    light,
  });
  return [
    ...walls,
    { ...flat(UP_TO_LEVEL, 0.12), stripes: 0.18 },
    flat(top, 0.4),
    ...walls.flatMap((one) => furnished(one, uniform)),
    ...box([-1 + 0.6 * uniform(), d - 1.2], 0.8, 0.75, uniform(), 0.16),
    ...box([1.2, d - 1.6 * uniform() - 0.6], 0.6, 1.7, 0.3 * uniform(), 0.09),
    ...clutter(14, uniform, d - 2),
  ];
}

/** The front and side of a house with a roof, a path, trees. @param seed  another seed, another house */
function housePanels(seed: number): Panel[] {
  const uniform = random(seed);
  const storeys = 2 + Math.floor(uniform() * 3);
  const [w, d, far] = [9 + 5 * uniform(), 7, 9 + 3 * uniform()];
  const h = storeys * 2.9;
  const left = -w / 2 + (uniform() - 0.5) * 3;
  const front: Panel = {
    corner: [left, UP_TO_LEVEL - h, far],
    along: [1, 0, 0],
    down: DOWN,
    width: w,
    height: h,
    light: 0.35,
  };
  const side: Panel = {
    ...front,
    corner: [left + w, UP_TO_LEVEL - h, far],
    along: [0, 0, 1],
    width: d,
    light: 0.16,
  };
  const columns = 3 + Math.floor(uniform() * 3);
  const windows = Array.from({ length: storeys * columns }, (_, i): Panel => {
    const x = left + (w * ((i % columns) + 0.5)) / columns;
    const y = UP_TO_LEVEL - h + 1.4 + 2.9 * Math.floor(i / columns);
    return hung(front, [x, y, far - OFF_WALL], [1.1, 1.5], 0.06 + 0.1 * uniform());
  });
  const roof: Panel = {
    corner: [left - 0.4, UP_TO_LEVEL - h - 2.4, far + 3],
    along: [1, 0, 0],
    down: unit([0, 2.4, -3.4]),
    width: w + 0.8,
    height: 4.2,
    light: 0.11,
  };
  const ground: Panel = {
    corner: [-30, UP_TO_LEVEL, 0.5],
    along: [1, 0, 0],
    down: [0, 0, 1],
    width: 60,
    height: 60,
    light: 0.14,
    stripes: 3,
  };
  const trees = Array.from({ length: 3 }, (_, i) =>
    hung(
      front,
      [left - 2 + i * 5 * uniform(), UP_TO_LEVEL - 2, far - 2 - uniform()],
      [0.25, 4.5],
      0.05,
      (uniform() - 0.5) * 10,
    ),
  );
  const branches = clutter(20, uniform, 5).map((panel): Panel => ({
    ...panel,
    corner: add(add(panel.corner, [0, -1, 0], 3), [1, 0, 0], left + 2),
  }));
  return [front, side, ...windows, roof, ground, ...trees, ...branches];
}

/** Samples across and down a pixel. */
const SAMPLES = 2;
const SKY = 0.8;

/** Numbers a panel, as `seeBuilding` walks over them. */
const OF_PANEL = 16;

/** Panels as a camera's rays meet them: normals, sides and what lies before their corner. */
function flattened(panels: readonly Panel[], at: Vector): Float64Array {
  return Float64Array.from(
    panels.flatMap((panel) => {
      const normal = unit(cross(panel.along, panel.down));
      const from = panel.corner.map((v, i) => v - at[i]!);
      return [
        ...normal,
        dot(normal, from),
        ...panel.along,
        dot(panel.along, from),
        panel.width,
        ...panel.down,
        dot(panel.down, from),
        panel.height,
        panel.light,
      ].concat(panel.stripes ?? Infinity);
    }),
  );
}

/** The light of the nearest panel that a ray meets. */
function lightAlong(panels: Float64Array, x: number, y: number, z: number): number {
  let nearest = Infinity;
  let seen = SKY;
  for (let i = 0; i < panels.length; i += OF_PANEL) {
    const ahead = panels[i]! * x + panels[i + 1]! * y + panels[i + 2]! * z;
    const distance = panels[i + 3]! / ahead;
    if (!(distance > 0) || distance >= nearest) continue;
    const across = panels[i + 4]! * x + panels[i + 5]! * y + panels[i + 6]! * z;
    const a = distance * across - panels[i + 7]!;
    const width = panels[i + 8]!;
    if (a < 0 || a > width) continue;
    const along = panels[i + 9]! * x + panels[i + 10]! * y + panels[i + 11]! * z;
    const b = distance * along - panels[i + 12]!;
    if (b < 0 || b > panels[i + 13]!) continue;
    nearest = distance;
    const stripes = panels[i + 15]!;
    const isGap = a % stripes < 0.06 * stripes && stripes !== Infinity;
    seen = panels[i + 14]! * (1 - 0.25 * (a / width)) * (isGap ? 0.6 : 1);
  }
  return seen;
}

/** What a camera sees of panels: planar linear light, grey, with a little texture. */
function seeBuilding(
  panels: readonly Panel[],
  { width: w, height: h, focalPx, rotation, at }: BuildingCamera,
  seed: number,
): RadianceImage {
  const light = new Float32Array(w * h);
  const uniform = random(seed);
  const flat = flattened(panels, at);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let sum = 0;
      for (let k = 0; k < SAMPLES * SAMPLES; k++) {
        const u = x + ((k % SAMPLES) + 0.5) / SAMPLES - w / 2;
        const v = y + (Math.floor(k / SAMPLES) + 0.5) / SAMPLES - h / 2;
        const [rx, ry, rz] = apply(rotation, [u, v, focalPx]);
        sum += lightAlong(flat, rx, ry, rz);
      }
      light[y * w + x] = (sum / SAMPLES ** 2) * (0.97 + 0.06 * uniform());
    }
  return { width: w, height: h, planes: [light, light, light] };
}

/** Electrons at saturation of the camera that photographs buildings. */
const ELECTRONS = 3500;

/**
 * A frame of a simulated room or house in 8-bit sRGB, taken by a camera that is turned to the side,
 * tilted up and rolled clockwise, degrees.
 *
 * @returns RGB interleaved
 */
export function photographBuilding(
  kind: "room" | "house",
  seed: number,
  { width, height, focalPx }: Pick<BuildingCamera, "width" | "height" | "focalPx">,
  held: { yaw: number; pitch: number; roll: number },
): Uint8Array {
  const panels = kind === "room" ? roomPanels(seed) : housePanels(seed);
  const rotation = lookingAt(held.yaw, held.pitch, held.roll);
  const scene = seeBuilding(panels, { width, height, focalPx, rotation, at: [0, 0, 0] }, seed);
  return takeFrame(scene, {
    width,
    height,
    ev: 0,
    toScene: [1, 0, 0, 0, 1, 0, 0, 0, 1],
    seed,
    gain: ELECTRONS,
    response: srgbResponse,
  }) as Uint8Array;
}
