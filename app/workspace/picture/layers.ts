import type { View } from "../../work/sessionState";
import { zoomOf, type Size, type Viewport } from "./viewport";
import type { Placement } from "./paintMarks";

/** A picture that was rendered for a part of the full-size picture. */
export type Layer = Omit<View, "pixels"> & { canvas: OffscreenCanvas };

/** What lies one above the other on screen. */
export interface Layers {
  /** the merge */
  after?: Layer;
  /** a frame, in its place or beside it */
  before?: Layer;
  map?: Layer;
  /** the last picture of the stack, until the merge is there */
  standIn?: ImageBitmap;
}

/** How the layers are shown. */
export interface LayerView {
  /** a frame is shown instead of the merge, or left of the split in a wipe */
  frame: number | undefined;
  wipe: boolean;
  /** place of the split across the box, 0 to 1 */
  split: number;
  map: boolean;
}

const INK = "#f2f2f2";

/** Where the picture lies in its box. */
export function placementOf(viewport: Viewport, size: Size, box: Size): Placement {
  const zoom = zoomOf(viewport, size, box);
  return {
    size,
    zoom,
    ox: box.width / 2 - viewport.cx * zoom,
    oy: box.height / 2 - viewport.cy * zoom,
  };
}

function paintLayer(
  g: CanvasRenderingContext2D,
  layer: Layer | undefined,
  { zoom, ox, oy }: Placement,
): void {
  if (!layer) return;
  const x = layer.region.x * zoom + ox;
  const y = layer.region.y * zoom + oy;
  const width = layer.region.width * zoom;
  // made for this size: pixel on pixel
  if (Math.abs(width - layer.width) < 1) {
    g.drawImage(layer.canvas, Math.round(x), Math.round(y));
    return;
  }
  g.imageSmoothingQuality = width / layer.width >= 0.5 ? "low" : "medium";
  g.drawImage(layer.canvas, x, y, width, layer.region.height * zoom);
}

/** Paints the layers as they are to be seen. */
export function paintLayers(
  g: CanvasRenderingContext2D,
  { after, before, map, standIn }: Layers,
  view: LayerView,
  placement: Placement,
  box: Size,
): void {
  const { zoom, ox, oy, size } = placement;
  g.clearRect(0, 0, box.width, box.height);
  g.imageSmoothingEnabled = zoom < 2;
  if (!after && standIn) g.drawImage(standIn, ox, oy, size.width * zoom, size.height * zoom);
  if (view.frame !== undefined && !view.wipe) {
    paintLayer(g, before ?? after, placement);
    return;
  }
  paintLayer(g, after, placement);
  if (view.map) paintLayer(g, map, placement);
  if (view.wipe && before) paintWipe(g, before, view.split * box.width, placement, box);
}

function paintWipe(
  g: CanvasRenderingContext2D,
  before: Layer,
  x: number,
  placement: Placement,
  box: Size,
): void {
  g.save();
  g.beginPath();
  g.rect(0, 0, x, box.height);
  g.clip();
  paintLayer(g, before, placement);
  g.restore();
  g.fillStyle = INK;
  g.fillRect(x - 1, 0, 2, box.height);
  g.fillRect(x - 4, box.height / 2 - 16, 8, 32);
}
