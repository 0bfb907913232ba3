import type { Heap } from "../../kernels/heap";
import { luminance } from "../colour/luminance";
import { clamp } from "../math/clamp";
import { renderStrip, type Planes, type RenderSettings } from "../tone/renderStrip";
import type { ToneField } from "../tone/toneField";

/** Added to both lights before they are compared, so that black against black is no gain. */
export const GAIN_OFFSET = 1 / 64;

/** A picture as screens show it, and as brighter ones do. */
export interface GainInput {
  scene: Planes;
  /** how the picture is toned for white */
  field: ToneField;
  /** how it is toned for a display with headroom, 1 being as bright as that goes */
  bright: ToneField;
  /** EV that the display goes beyond white */
  headroom: number;
  settings: RenderSettings;
}
type Region = { x: number; y: number; width: number; height: number };

/** Bytes of scratch beside what rendering a row takes, for rows so many px wide. */
export const gainScratch = (width: number): number => (width + 4) * 24 + 256;

/**
 * How much brighter each pixel is on a display with headroom than as it is on screen, from both
 * renderings of one scene: log2 of the ratio, 0 none to 255 the whole headroom (ISO 21496-1:2025).
 *
 * @param region  x, y, width, height in px of the scene
 * @param dst     address of the region's first gain, a byte each, row by row
 */
export function gainRows(
  heap: Heap,
  { scene, field, bright, headroom, settings }: GainInput,
  region: Region,
  dst: number,
): void {
  const mark = heap.mark();
  const { width } = region;
  const white = heap.alloc((width + 4) * 12 + 64);
  const beyond = heap.alloc((width + 4) * 12 + 64);
  const peak = 2 ** headroom;
  const light: RenderSettings = { ...settings, space: "linear", linear: true };
  const [red, green, blue] = settings.gains;
  const dimmed: RenderSettings = { ...light, gains: [red / peak, green / peak, blue / peak] };
  const out = heap.u8(dst, width * region.height);
  for (let y = 0; y < region.height; y++) {
    const row = { ...region, y: region.y + y, height: 1 };
    renderStrip(heap, scene, field, light, row, "rgb32f", white, 0, 1);
    renderStrip(heap, scene, bright, dimmed, row, "rgb32f", beyond, 0, 1);
    const shown = heap.f32(white, width * 3);
    const raised = heap.f32(beyond, width * 3);
    for (let x = 0; x < width; x++) {
      const ratio = (peak * lightAt(raised, x) + GAIN_OFFSET) / (lightAt(shown, x) + GAIN_OFFSET);
      out[y * width + x] = Math.round(255 * clamp(Math.log2(ratio) / headroom, 0, 1));
    }
  }
  heap.release(mark);
}

/** Luminance of a pixel, each channel no brighter than the display. */
const lightAt = (row: Float32Array, x: number): number =>
  luminance(clamp(row[3 * x]!, 0, 1), clamp(row[3 * x + 1]!, 0, 1), clamp(row[3 * x + 2]!, 0, 1));
