import type { Heap } from "../../kernels/heap";
import type { Planes } from "../tone/renderStrip";
import type { GridLines } from "./finish";

/** How a mask is seen: as a picture of its own, as a veil over the picture, or as its outline. */
export type MaskStyle = "grey" | "veil" | "outline";

/** The veil: light over dark and dark over light, so that it is seen on anything, without a hue. */
const VEIL = { red: 236, green: 226, blue: 206, alpha: 150 };
const INK = { light: 242, dark: 16 };

/**
 * A part's mask over a region, as RGBA.
 *
 * @param scene   light by whose edges the mask runs, as large as it is seen
 * @param lowest  light below which there is none, linear
 */
export function paintMask(
  heap: Heap,
  scene: Planes,
  lines: GridLines,
  lowest: number,
  style: MaskStyle,
): Uint8Array<ArrayBuffer> {
  const { width: w, height: h } = scene;
  const mark = heap.mark();
  const lies = scene.lies ?? { x: 0, y: 0, width: 1, height: 1 };
  const neutral = heap.put([1, 1, 1, 0, 1, 0, 1, 1, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]);
  const line = heap.alloc(lines.width * 8 + 64);
  const [slopes, offsets, light] = [0, 0, 0].map(() => heap.alloc(w * 4 + 64)) as [
    number,
    number,
    number,
  ];
  const mask = heap.alloc(w * h * 4 + 64);
  const sx = (lines.width * lies.width) / w;
  const sy = (lines.height * lies.height) / h;
  for (let y = 0; y < h; y++) {
    heap.k.gainRow(
      lines.slopes,
      lines.offsets,
      lines.width,
      lines.height,
      0.5 * sx + lines.width * lies.x - 0.5,
      sx,
      (y + 0.5) * sy + lines.height * lies.y - 0.5,
      w,
      neutral,
      line,
      slopes,
      offsets,
    );
    heap.k.logLight(scene.ptr + y * w * 4, scene.planeBytes, w, lowest, light);
    heap.k.partMask(light, slopes, offsets, w, 1, mask + y * w * 4);
  }
  const values = heap.f32(mask, w * h);
  const out = new Uint8Array(w * h * 4);
  if (style === "outline") paintOutline(values, w, h, out);
  else
    for (let i = 0; i < values.length; i++) {
      const m = values[i]!;
      const p = 4 * i;
      if (style === "grey") {
        const grey = Math.round(255 * m);
        out[p] = grey;
        out[p + 1] = grey;
        out[p + 2] = grey;
        out[p + 3] = 255;
      } else {
        out[p] = VEIL.red;
        out[p + 1] = VEIL.green;
        out[p + 2] = VEIL.blue;
        out[p + 3] = Math.round(VEIL.alpha * m);
      }
    }
  heap.release(mark);
  return out;
}

/** Where the mask passes a half: a light line beside a dark one. */
function paintOutline(values: Float32Array, w: number, h: number, out: Uint8Array): void {
  const inside = (x: number, y: number): boolean =>
    values[Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))]! >= 0.5;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const own = inside(x, y);
      const isBorder =
        inside(x - 1, y) !== own ||
        inside(x + 1, y) !== own ||
        inside(x, y - 1) !== own ||
        inside(x, y + 1) !== own;
      if (!isBorder) continue;
      // dashes, light within and dark without
      const ink = own === (Math.floor((x + y) / 5) % 2 === 0) ? INK.light : INK.dark;
      out.set([ink, ink, ink, 255], 4 * (y * w + x));
    }
}
