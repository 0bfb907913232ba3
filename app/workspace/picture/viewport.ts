/**
 * Where one looks: `zoom` is device px per full-size px, or "fit"; the centre is in full-size px.
 */
export interface Viewport {
  zoom: number | "fit";
  cx: number;
  cy: number;
}
export interface Size {
  width: number;
  height: number;
}

const MARGIN = 12;

export const fitZoom = (picture: Size, box: Size): number =>
  Math.min(
    2,
    Math.min((box.width - 2 * MARGIN) / picture.width, (box.height - 2 * MARGIN) / picture.height),
  );
export const zoomOf = (v: Viewport, picture: Size, box: Size): number =>
  v.zoom === "fit" ? fitZoom(picture, box) : v.zoom;

/**
 * Keeps the picture on the screen: centred where it is smaller than the box, without gaps where it
 * is larger.
 */
export function settle(v: Viewport, picture: Size, box: Size): Viewport {
  if (v.zoom === "fit") return { zoom: "fit", cx: picture.width / 2, cy: picture.height / 2 };
  const hold = (c: number, p: number, b: number): number => {
    const half = b / 2 / (v.zoom as number);
    return half * 2 >= p ? p / 2 : Math.min(p - half, Math.max(half, c));
  };
  return {
    zoom: v.zoom,
    cx: hold(v.cx, picture.width, box.width),
    cy: hold(v.cy, picture.height, box.height),
  };
}

/** Zooms so that what is under the point of the box stays there. */
export function zoomAt(
  v: Viewport,
  picture: Size,
  box: Size,
  { x, y }: { x: number; y: number },
  zoom: number,
): Viewport {
  const z0 = zoomOf(v, picture, box);
  const z = Math.min(8, zoom);
  if (z <= fitZoom(picture, box)) return settle({ zoom: "fit", cx: 0, cy: 0 }, picture, box);
  const px = v.cx + (x - box.width / 2) / z0;
  const py = v.cy + (y - box.height / 2) / z0;
  return settle(
    { zoom: z, cx: px - (x - box.width / 2) / z, cy: py - (y - box.height / 2) / z },
    picture,
    box,
  );
}

/** From box to picture. */
export function toPicture(
  v: Viewport,
  picture: Size,
  box: Size,
  x: number,
  y: number,
): { x: number; y: number } {
  const z = zoomOf(v, picture, box);
  return { x: v.cx + (x - box.width / 2) / z, y: v.cy + (y - box.height / 2) / z };
}

/** The part of the picture that is seen. */
export function visible(
  v: Viewport,
  picture: Size,
  box: Size,
): { x: number; y: number; width: number; height: number } {
  const a = toPicture(v, picture, box, 0, 0);
  const b = toPicture(v, picture, box, box.width, box.height);
  const x = Math.max(0, Math.floor(a.x));
  const y = Math.max(0, Math.floor(a.y));
  return {
    x,
    y,
    width: Math.min(picture.width, Math.ceil(b.x)) - x,
    height: Math.min(picture.height, Math.ceil(b.y)) - y,
  };
}
