import { project, type Matrix3 } from "../../core/math/matrix3";
import type { KeptShape } from "../finish/partSchema";
import type { OneViewRecipe, Recipe } from "../recipe/recipe";
import type { KeptRepair } from "../retouch/repairSchema";

type Point = [number, number];
interface Size {
  width: number;
  height: number;
}
/** How places of one picture, in shares of it, lie in another, and how much larger there. */
interface Way {
  to(point: readonly [number, number]): Point;
  larger(point: readonly [number, number]): number;
}

/** The way that a mapping of pixels takes shares. */
function wayOf(mapping: Matrix3, { width, height }: Size): Way {
  const to = ([x, y]: readonly [number, number]): Point => {
    const [u, v] = project(mapping, x * width, y * height);
    return [u / width, v / height];
  };
  return {
    to,
    larger([x, y]) {
      const [a, b, c] = [
        project(mapping, x * width, y * height),
        project(mapping, x * width + 1, y * height),
        project(mapping, x * width, y * height + 1),
      ] as const;
      const area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
      return Math.sqrt(Math.abs(area));
    },
  };
}

const clampedRadius = (radius: number, most: number, least: number): number =>
  Math.min(most, Math.max(least, radius));

function carriedRepair(repair: KeptRepair, way: Way): KeptRepair {
  const { shape, source } = repair;
  const middle: Point = shape.type === "spot" ? [shape.x, shape.y] : shape.points[0]!;
  const [x, y] = way.to(middle);
  const radiusOf = (radius: number): number =>
    clampedRadius(radius * way.larger(middle), 0.25, 0.0003);
  let carried: KeptRepair["shape"];
  if (shape.type === "spot") carried = { ...shape, x, y, radius: radiusOf(shape.radius) };
  else if (shape.type === "stroke")
    carried = { ...shape, points: shape.points.map(way.to), radius: radiusOf(shape.radius) };
  else carried = { ...shape, points: shape.points.map(way.to) };
  if (!source) return { ...repair, shape: carried };
  const [u, v] = way.to([middle[0] + source.dx, middle[1] + source.dy]);
  return { ...repair, shape: carried, source: { dx: u - x, dy: v - y } };
}

function carriedPart(shape: KeptShape, way: Way): KeptShape {
  switch (shape.type) {
    case "outline":
      return { ...shape, points: shape.points.map(way.to) };
    case "brush": {
      const radius = clampedRadius(shape.radius * way.larger(shape.points[0]!), 0.5, 0.0005);
      return { ...shape, points: shape.points.map(way.to), radius };
    }
    case "gradient":
      return { ...shape, from: way.to(shape.from), to: way.to(shape.to) };
    case "ellipse": {
      const larger = way.larger(shape.centre);
      const [a, b] = shape.radii.map((r) => clampedRadius(r * larger, 2, 0.002)) as Point;
      return { ...shape, centre: way.to(shape.centre), radii: [a, b] };
    }
    case "sample":
      return { ...shape, at: way.to(shape.at) };
    default:
      return shape;
  }
}

interface Drawn {
  points: Point[];
  radius: number;
}

const carriedArea = <A extends Drawn>(area: A, way: Way): A => ({
  ...area,
  points: area.points.map(way.to),
  radius: clampedRadius(area.radius * way.larger(area.points[0]!), 0.5, 0),
});

/** Whether anything was drawn on the picture. */
export const hasShapes = (recipe: Recipe): boolean => {
  const { retouch, finish, prepare } = recipe;
  return (
    patchesOf(recipe).length > 0 ||
    retouch.repairs.length > 0 ||
    prepare.local.length > 0 ||
    finish.parts.some(({ shapes }) => shapes.length > 0)
  );
};

/** Patches of ghosts, of which a panorama has none. */
const patchesOf = (recipe: Recipe): OneViewRecipe["ghosts"]["patches"] =>
  recipe.kind === "panorama" ? [] : recipe.ghosts.patches;

/**
 * A recipe of which all that was drawn on the picture lies on the same things of it once it is
 * straightened otherwise: ghost patches, areas of other light, repairs with their sources, and the
 * shapes of parts.
 *
 * @param mapping  px of the picture as it was to those of the picture as it will be, full size
 * @param size     of the picture, px
 */
export function carryShapes<R extends Recipe>(recipe: R, mapping: Matrix3, size: Size): R {
  const way = wayOf(mapping, size);
  const { retouch, finish, prepare } = recipe;
  const patches = patchesOf(recipe).map((patch) => carriedArea(patch, way));
  return {
    ...recipe,
    ...(recipe.kind === "panorama" ? {} : { ghosts: { ...recipe.ghosts, patches } }),
    prepare: { ...prepare, local: prepare.local.map((light) => carriedArea(light, way)) },
    retouch: { ...retouch, repairs: retouch.repairs.map((repair) => carriedRepair(repair, way)) },
    finish: {
      ...finish,
      parts: finish.parts.map((part) => ({
        ...part,
        shapes: part.shapes.map((shape) => carriedPart(shape, way)),
      })),
    },
  };
}
