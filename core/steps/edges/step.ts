import * as v from "valibot";
import { largestRectangle, type Rectangle } from "../../panorama/largestRectangle";
import { commonRectangle } from "../../raster/coveredRectangle";
import { range } from "../range";
import { defineStep, nothingToPlan } from "../step";

const schema = v.object({ /** leave empty, cut off, fill, or bend */ mode: v.picklist(["keep", "crop", "extend", "rectangle"]), /** how far a picture is bent to its rectangle; what is left is cut off */ amount: range(0, 1) });
export type EdgesSettings = v.InferOutput<typeof schema>;

/** What of the borders changes the picture itself, and not only what is kept of it. */
export const edgesKey = ({ mode, amount }: EdgesSettings): unknown => (mode === "extend" ? mode : mode === "rectangle" ? [mode, amount] : "");

/** The part of a bracket or focus stack that all its frames cover, px. */
export function commonArea({ mode }: EdgesSettings, frames: readonly { fromReference: number[]; used: boolean }[], width: number, height: number): Rectangle {
  if (mode === "keep") return { x: 0, y: 0, width, height };
  const b = commonRectangle(frames.filter((f) => f.used).map((f) => f.fromReference), width, height), x = Math.ceil(b.x0), y = Math.ceil(b.y0);
  return Math.floor(b.x1) - x > width / 4 && Math.floor(b.y1) - y > height / 4 ? { x, y, width: Math.floor(b.x1) - x, height: Math.floor(b.y1) - y } : { x: 0, y: 0, width, height };
}

/** What is done about a picture's empty borders. */
export const edgesStep = defineStep({
  settings: { schema, defaults: { mode: "crop", amount: 1 } },
  plan: nothingToPlan,
  /**
   * The part of a picture that is kept, px.
   *
   * @param covered  which cells of a map over the whole picture hold something
   * @param closed   whether the picture goes all round, so that its sides are no borders
   */
  run({ mode }: EdgesSettings, picture: { width: number; height: number }, covered: { width: number; height: number; of: ArrayLike<number> }, closed: boolean): Rectangle {
    const whole = { x: 0, y: 0, width: picture.width, height: picture.height };
    if (mode === "keep" || mode === "extend") return whole;
    // only cells whose neighbours are covered too: a cell at the border may be covered in part
    const { width: w, height: h, of } = covered, inner = new Uint8Array(w * h), has = (x: number, y: number): boolean => (x < 0 || y < 0 || x >= w || y >= h ? closed : of[y * w + x]! > 0);
    for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i++) inner[i] = has(x, y) && has(x - 1, y) && has(x + 1, y) && has(x, y - 1) && has(x, y + 1) && has(x - 1, y - 1) && has(x + 1, y - 1) && has(x - 1, y + 1) && has(x + 1, y + 1) ? 1 : 0;
    const r = largestRectangle(inner, w, h);
    if (!r.width || !r.height) return whole;
    const sx = picture.width / w, sy = picture.height / h, x = Math.ceil(r.x * sx), y = Math.ceil(r.y * sy);
    return { x, y, width: Math.floor((r.x + r.width) * sx) - x, height: Math.floor((r.y + r.height) * sy) - y };
  },
  evidence: () => [],
});
