import { useMemo } from "react";
import { apply } from "../../../core/math/matrix3";
import { between } from "../../../core/panorama/camera";
import { pixelOf } from "../../../core/panorama/canvas/projection";
import { placeShape } from "../../../core/retouch/repair";
import { onPicture } from "../actions/straighten";
import { middleOf, sourceShown } from "../actions/repairs";
import type { KeptRepair } from "../../../pipeline/retouch/repairSchema";
import type { DustSpot } from "../../../core/frame/preparation";
import { useKept } from "../state/useKept";
import { useRecipe, useSession, useView, useWorkspace, type Workspace } from "../state/workspace";
import { seenFrom } from "../evidence/plateOutlines";
import { useToolName } from "../tools/useTool";
import type { Area } from "./area";
import type { Marks } from "./paintMarks";
import type { Size } from "./viewport";

type Line = [number, number][];

/** Corners of the ring round a spot, and its radius in those of the spot. */
const RING_CORNERS = 24;
const RING = 1.3;
/** Points along a guide. */
const GUIDE_POINTS = 24;

/** A ring round a spot. */
function ringOf({ x, y, radius }: DustSpot, size: Size): Area {
  const points = Array.from({ length: RING_CORNERS }, (_, i): [number, number] => {
    const angle = (2 * Math.PI * i) / RING_CORNERS;
    return [
      x + RING * radius * Math.cos(angle),
      y + (RING * radius * Math.sin(angle) * size.width) / size.height,
    ];
  });
  return { shape: "outline", radius: 0, points };
}

/** A ring round dust of a frame, where the picture shows it. */
function dustRing(workspace: Workspace, spot: DustSpot): Area {
  const [x, y] = onPicture(workspace, [spot.x, spot.y]);
  return ringOf({ ...spot, x, y }, workspace.session.state.size);
}

/** Straight lines over the picture, to judge it by: so many in each direction. */
const acrossLines = (count: number): Line[] =>
  Array.from({ length: count - 1 }, (_, i) => [
    [(i + 1) / count, 0],
    [(i + 1) / count, 1],
  ]);
const GRID: readonly Line[] = [
  ...acrossLines(12),
  ...acrossLines(8).map((line) => line.map(([x, y]): [number, number] => [y, x])),
];

/** The guides of a panorama, as what is straight runs in its projection. */
function useGuides(): Line[] {
  const recipe = useRecipe();
  const guides = recipe.kind === "panorama" ? recipe.panorama.guides : undefined;
  const layout = useSession((s) => s.layout);
  const size = useSession((s) => s.size);
  return useMemo(() => {
    if (!layout || !guides) return [];
    return guides.flatMap((guide): Line[] => {
      const points = between(guide.from, guide.to, GUIDE_POINTS).map((direction) =>
        pixelOf(layout.canvas, apply(layout.turned, direction)),
      );
      return points.every((p) => p !== undefined)
        ? [points.map(([x, y]) => [x / size.width, y / size.height])]
        : [];
    });
  }, [layout, size, guides]);
}

/** The guides of a picture that is set upright, where they lie on it. */
function useFrameGuides(): Line[] {
  const workspace = useWorkspace();
  const { guides } = useRecipe().edges;
  const straightening = useSession((s) => s.aligned?.straightening);
  return useMemo(
    () => guides.map(({ from, to }) => [onPicture(workspace, from), onPicture(workspace, to)]),
    // where a place is shown depends on the straightening
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [workspace, guides, straightening],
  );
}

/** The outlines of a panorama's frames on its picture: of one, or of all. */
function useOutlines(which: number | "all" | undefined): Line[] {
  const layout = useSession((s) => s.layout);
  const size = useSession((s) => s.size);
  return useMemo(() => {
    if (!layout || which === undefined) return [];
    const cameras = which === "all" ? layout.cameras : [layout.cameras[which]];
    return cameras
      .flatMap((camera) => (camera ? seenFrom(camera, layout.canvas) : []))
      .map((points) => points.map(([x, y]): [number, number] => [x / size.width, y / size.height]));
  }, [layout, size, which]);
}

/** The areas that are outlined: those of the open step, of a frame looked at, or just drawn. */
function useAreas(): readonly Area[] {
  const workspace = useWorkspace();
  const recipe = useRecipe();
  const { prepare } = recipe;
  const ghosts = recipe.kind === "panorama" ? undefined : recipe.ghosts;
  const size = useSession((s) => s.size);
  const straightening = useSession((s) => s.aligned?.straightening);
  const { open, area, plate, dust, tool } = useView((view) => view);
  const plateOutline = useOutlines(plate);
  return useMemo(() => {
    const plates = plateOutline.map((points): Area => ({ shape: "outline", radius: 0, points }));
    if (area) return [area, ...plates];
    if (plates.length) return plates;
    if (open === "ghosts") return (ghosts?.patches ?? []).filter((patch) => patch.on);
    if (open !== "prepare") return [];
    const spots = [...(dust.spots ?? []), ...(tool === "dust" ? prepare.dust : [])];
    const lights = prepare.local.flatMap(({ on, shape, ...light }): Area[] =>
      on && shape !== "gradient" ? [{ ...light, shape }] : [],
    );
    return [...spots.map((spot) => dustRing(workspace, spot)), ...lights];
    // where a place is shown depends on the straightening
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [workspace, straightening, plateOutline, area, open, ghosts, dust, tool, prepare, size]);
}

/** The outline of a repair, moved by shares of the picture. */
function outlineOf(shape: KeptRepair["shape"], size: Size, { dx, dy } = { dx: 0, dy: 0 }): Area {
  const moved = ([x, y]: readonly [number, number]): [number, number] => [x + dx, y + dy];
  if (shape.type === "outline")
    return { shape: "outline", radius: 0, points: shape.points.map(moved) };
  const placed = placeShape(shape, size);
  const radius = (placed.type === "path" ? placed.radius : 0) / size.width;
  if (shape.type === "stroke") return { shape: "brush", radius, points: shape.points.map(moved) };
  const [x, y] = moved([shape.x, shape.y]);
  return ringOf({ x, y, radius: radius / RING }, size);
}

/** The repair that is shown, where it takes from, and the middles of the others. */
function useRepairMarks(): { areas: readonly Area[]; lines: readonly Line[] } {
  const workspace = useWorkspace();
  const { repairs } = useRecipe().retouch;
  const size = useSession((s) => s.size);
  const sources = useSession((s) => s.repairSources);
  const { open, repair: shown, dust } = useView((view) => view);
  return useMemo(() => {
    if (open !== "retouch") return { areas: [], lines: [] };
    const likely = (dust.spots ?? []).slice(0, 1).map((spot) => dustRing(workspace, spot));
    const others = repairs.flatMap(({ on, shape }, i) =>
      on && i !== shown ? [outlineOf(shape, size)] : [],
    );
    const current = shown === undefined ? undefined : repairs[shown];
    if (!current) return { areas: [...likely, ...others], lines: [] };
    const source = sourceShown(workspace, shown!);
    const [x, y] = middleOf(current.shape);
    return {
      areas: [
        ...likely,
        ...others,
        outlineOf(current.shape, size),
        ...(source ? [outlineOf(current.shape, size, source)] : []),
      ],
      lines: source
        ? [
            [
              [x, y],
              [x + source.dx, y + source.dy],
            ],
          ]
        : [],
    };
    // what was found of the sources is read through `sourceShown`
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [workspace, repairs, size, sources, open, shown, dust]);
}

/** What is drawn over the picture besides what the tool in hand draws. */
export function useMarks(): Marks {
  const { prepare } = useRecipe();
  const { open, map, grid, suspect } = useView((view) => view);
  const suspects = useSession((s) => s.suspects);
  const isCropping = useToolName() === "crop";
  const kept = useKept();
  const areas = useAreas();
  const repairs = useRepairMarks();
  const guides = useGuides();
  const frameGuides = useFrameGuides();
  const outlines = useOutlines(map === "sources" ? "all" : undefined);
  const gradients =
    open === "prepare"
      ? prepare.local.filter((light) => light.on && light.shape === "gradient")
      : [];
  return {
    areas: [...areas, ...repairs.areas],
    lines: [
      ...repairs.lines,
      ...outlines.map((points) => [...points, points[0]!]),
      ...(open === "panorama" ? guides : []),
      ...(open === "edges" ? frameGuides : []),
      ...(grid ? GRID : []),
      ...gradients.map((light) => light.points),
    ],
    place: suspect === undefined ? undefined : suspects[suspect],
    kept: isCropping ? undefined : kept?.region,
    stroke: undefined,
  };
}
