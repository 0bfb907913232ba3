import type { Rectangle } from "../../../core/raster/largestRectangle";
import type { Area } from "./area";
import type { Size } from "./viewport";

/** What is drawn above the picture. */
export interface Marks {
  /** parts of the picture, in shares of it */
  areas: readonly Area[];
  /** lines over it, in shares of it */
  lines: readonly (readonly [number, number][])[];
  /** the place that is looked at, px of the full-size picture */
  place: Rectangle | undefined;
  /** the part that will go out, px of the full-size picture; what lies outside is dimmed */
  kept: Rectangle | undefined;
  /** what is being drawn */
  stroke: (Omit<Area, "shape"> & { shape: Area["shape"] | "line" }) | undefined;
}

/** Where the picture lies on screen. */
export interface Placement {
  /** of the full-size picture, px */
  size: Size;
  /** screen px a picture px */
  zoom: number;
  /** the picture's upper left corner, screen px */
  ox: number;
  oy: number;
}

/**
 * Draws what the user drew and where to look: a light line within a dark one, to be seen on
 * anything.
 */
export function paintMarks(
  g: CanvasRenderingContext2D,
  { areas, place, lines, stroke, kept }: Marks,
  placement: Placement,
): void {
  const { size, zoom, ox, oy } = placement;
  if (kept) dimOutside(g, kept, placement);
  const twice = (path: () => void, dash: number[] = []): void => {
    g.save();
    g.lineJoin = g.lineCap = "round";
    for (const [width, colour] of [
      [3, "rgb(0 0 0 / 0.55)"],
      [1.25, "#f2f2f2"],
    ] as const) {
      g.setLineDash(dash);
      g.lineWidth = width;
      g.strokeStyle = colour;
      g.beginPath();
      path();
      g.stroke();
    }
    g.restore();
  };
  const line = (points: readonly (readonly [number, number])[], close: boolean): void => {
    points.forEach(([x, y], i) =>
      g[i ? "lineTo" : "moveTo"](x * size.width * zoom + ox, y * size.height * zoom + oy),
    );
    if (close) g.closePath();
  };
  for (const a of areas) {
    if (a.shape === "outline") twice(() => line(a.points, true), [5, 4]);
    else band(g, () => line(a.points, false), Math.max(2, a.radius * 2 * size.width * zoom));
  }
  for (const l of lines) twice(() => line(l, false));
  if (stroke) {
    if (stroke.shape !== "brush") twice(() => line(stroke.points, false));
    else
      band(
        g,
        () =>
          line(
            stroke.points.length > 1 ? stroke.points : [stroke.points[0]!, stroke.points[0]!],
            false,
          ),
        Math.max(2, stroke.radius * 2 * size.width * zoom),
      );
  }
  if (place) {
    const x = place.x * zoom + ox - 6;
    const y = place.y * zoom + oy - 6;
    const w = place.width * zoom + 12;
    const h = place.height * zoom + 12;
    const c = Math.min(14, w / 3, h / 3);
    // corners only: what is looked at stays free
    twice(() => {
      for (const [u, v, s, t] of [
        [x, y, 1, 1],
        [x + w, y, -1, 1],
        [x, y + h, 1, -1],
        [x + w, y + h, -1, -1],
      ] as const) {
        g.moveTo(u + s * c, v);
        g.lineTo(u, v);
        g.lineTo(u, v + t * c);
      }
    });
  }
}

function band(g: CanvasRenderingContext2D, path: () => void, width: number): void {
  g.save();
  g.lineJoin = g.lineCap = "round";
  g.lineWidth = width;
  g.strokeStyle = "rgb(242 242 242 / 0.35)";
  g.beginPath();
  path();
  g.stroke();
  g.restore();
}

/** Dims what will be cut off. */
function dimOutside(
  g: CanvasRenderingContext2D,
  kept: Rectangle,
  { size, zoom, ox, oy }: Placement,
): void {
  if (kept.width >= size.width && kept.height >= size.height) return;
  g.save();
  g.beginPath();
  g.rect(ox, oy, size.width * zoom, size.height * zoom);
  g.rect(kept.x * zoom + ox, kept.y * zoom + oy, kept.width * zoom, kept.height * zoom);
  g.fillStyle = "rgb(13 13 13 / 0.6)";
  g.fill("evenodd");
  g.restore();
}
