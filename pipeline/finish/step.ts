import * as v from "valibot";
import type { RenderSettings } from "../../core/tone/renderStrip";
import { range } from "../../core/math/range";
import { defineStep } from "../step";

const schema = v.object({ contrast: range(-1, 1), saturation: range(-1, 1) });

/** Contrast and colour after toning, point by point. */
export const finishStep = defineStep({
  settings: { schema, defaults: { contrast: 0, saturation: 0 } },
  key: ({ finish }: { finish: v.InferOutput<typeof schema> }) => finish,
  /**
   * What the renderer takes: white balance, exposure, contrast, saturation, and the space that it
   * goes to.
   */
  run: (
    white: Pick<RenderSettings, "gains" | "local">,
    exposure: number,
    { contrast, saturation }: v.InferOutput<typeof schema>,
    space: RenderSettings["space"],
    linear = false,
  ): RenderSettings => ({ linear, ...white, exposure, contrast, saturation, space }),
});
