import { gainScratch } from "../../core/output/gainRows";
import type { ToneField } from "../../core/tone/toneField";
import { renderScratch } from "../../pipeline/deliver/step";
import type { Tasks } from "../../pipeline/worker/tasks";
import { TaskScope } from "../../runtime/taskScope";
import { rowsOf } from "../../runtime/work";
import { pool } from "./pool";
import { renderPixels, type Toning, type SeenPart } from "./renderSeen";

/**
 * Renders what is seen for a display that goes beyond white: as a PNG in the code of brightness,
 * which browsers hand on to such a display.
 *
 * @param drawing  its settings render Rec. 2020
 * @param bright  how it is toned for that display, and how far that goes, EV
 */
export async function renderBright(
  seen: SeenPart,
  drawing: Pick<Toning, "field" | "settings">,
  bright: { field: ToneField; headroom: number },
): Promise<Blob> {
  await using scope = new TaskScope<Tasks>(pool(), "screen");
  const { width, height } = seen.region;
  const { headroom } = bright;
  const dst = scope.allocate(width * height * 6 + 64);
  const gains = scope.allocate(width * height + 64);
  await renderPixels(scope, seen, drawing, "rgb16", dst);
  await Promise.all(
    rowsOf(height, scope.threads).map(async ([y0, y1]) => {
      const region = { ...seen.region, y: seen.region.y + y0, height: y1 - y0 };
      const own = { scene: seen.scene, ...drawing, bright: bright.field, headroom };
      const rowGains = gains + y0 * width;
      await scope.run(
        "gainRows",
        { ...own, region, dst: rowGains },
        { scratch: renderScratch(width) + gainScratch(width) },
      );
      const pixels = dst + y0 * width * 6;
      const count = (y1 - y0) * width;
      await scope.run("codeForDisplay", { pixels, gains: rowGains, code: "pq", headroom, count });
    }),
  );
  const file = await scope.run("encode", {
    ptr: dst,
    width,
    height,
    kind: "rgb16",
    format: "png",
    space: "rec2020",
    displayCode: "pq",
    linear: false,
    quality: 100,
    chroma: "full",
    compression: "none",
    half: false,
    ppi: 96,
  });
  return new Blob(file instanceof Blob ? [file] : file, { type: "image/png" });
}
