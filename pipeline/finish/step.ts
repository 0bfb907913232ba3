import type * as v from "valibot";
import type { RenderSettings } from "../../core/tone/renderStrip";
import { percent, settingsOf } from "../settings/fields";
import { defineStep } from "../step";

const settings = settingsOf({
  contrast: percent({
    label: "Contrast",
    help: "Steeper or flatter around middle grey.",
    min: -1,
    max: 1,
    default: 0,
  }),
  saturation: percent({
    label: "Saturation",
    help: "Strength of colour; the minimum is grey.",
    min: -1,
    max: 1,
    default: 0,
  }),
});
export type FinishSettings = v.InferOutput<typeof settings.schema>;

/** Contrast and colour after toning, point by point. */
export const finishStep = defineStep({
  settings,
  key: ({ finish }: { finish: FinishSettings }) => finish,
  /**
   * What the renderer takes: white balance, exposure, contrast, saturation, and the space that it
   * goes to.
   */
  run: (
    white: Pick<RenderSettings, "gains" | "local">,
    exposure: number,
    { contrast, saturation }: FinishSettings,
    space: RenderSettings["space"],
    linear = false,
  ): RenderSettings => ({ linear, ...white, exposure, contrast, saturation, space }),
});
