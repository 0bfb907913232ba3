import * as v from "valibot";
import { largestRectangle, type Rectangle } from "../../panorama/largestRectangle";
import { commonRectangle } from "../../raster/coveredRectangle";
import { defineStep, nothingToPlan } from "../step";

const schema = v.object({ mode: v.picklist(["keep", "crop"]) });

/** The part of a focus stack that all its frames cover, px. */
export function commonArea({ mode }: v.InferOutput<typeof schema>, frames: readonly { fromReference: number[]; used: boolean }[], width: number, height: number): Rectangle {
  if (mode === "keep") return { x: 0, y: 0, width, height };
  const b = commonRectangle(frames.filter((f) => f.used).map((f) => f.fromReference), width, height), x = Math.ceil(b.x0), y = Math.ceil(b.y0);
  return Math.floor(b.x1) - x > width / 4 && Math.floor(b.y1) - y > height / 4 ? { x, y, width: Math.floor(b.x1) - x, height: Math.floor(b.y1) - y } : { x: 0, y: 0, width, height };
}

/** What is done about a picture's empty borders. */
export const edgesStep = defineStep({
  settings: { schema, defaults: { mode: "crop" } },
  plan: nothingToPlan,
  /**
   * The part of a picture that is kept, px.
   *
   * @param covered  which cells of a map over the whole picture hold something
   */
  run({ mode }: v.InferOutput<typeof schema>, picture: { width: number; height: number }, covered: { width: number; height: number; of: ArrayLike<number> }): Rectangle {
    const whole = { x: 0, y: 0, width: picture.width, height: picture.height };
    if (mode === "keep") return whole;
    // only cells whose neighbours are covered too: a cell at the border may be covered in part
    const { width: w, height: h, of } = covered, inner = Uint8Array.from({ length: w * h }, (_, i) => { const x = i % w, y = Math.floor(i / w); for (let b = -1; b <= 1; b++) for (let a = -1; a <= 1; a++) { const u = x + a, q = y + b; if (u >= 0 && q >= 0 && u < w && q < h && !of[q * w + u]) return 0; } return of[i] ? 1 : 0; });
    const r = largestRectangle(inner, w, h);
    if (!r.width || !r.height) return whole;
    const sx = picture.width / w, sy = picture.height / h, x = Math.ceil(r.x * sx), y = Math.ceil(r.y * sy);
    return { x, y, width: Math.floor((r.x + r.width) * sx) - x, height: Math.floor((r.y + r.height) * sy) - y };
  },
  evidence: () => [],
});
