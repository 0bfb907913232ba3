import { OUTPUT_FORMATS } from "../../../../codecs/outputFormats";
import { SPACES } from "../../../../core/colour/spaces";
import { beyondWhiteOf } from "../../../../pipeline/deliver/settings";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import type { Situation, StepScreen, StepSummary } from "../step";
import { DeliverControls } from "./DeliverControls";

const DEPTHS = { "8": "8-bit", "16": "16-bit", "32f": "32-bit float" } as const;

function formatText({ format, depth, quality }: Recipe["deliver"]): string {
  const { name, light, lossy } = OUTPUT_FORMATS[format];
  if (lossy) return `${name}, quality ${quality}`;
  const bits = light && depth === "16" ? "Half-float" : DEPTHS[depth];
  return `${bits} ${name}${light ? ", linear" : ""}`;
}

/** What goes out, in words. */
function sentenceOf(deliver: Recipe["deliver"]): string {
  const { space, size, sharpenFor, headroom, also } = deliver;
  const others = also.filter(({ on }) => on).map(({ name }) => name);
  return [
    formatText(deliver),
    SPACES[space].name,
    ...(size === "full" ? [] : [size]),
    ...(sharpenFor === "off" ? [] : [`sharpened for ${sharpenFor}`]),
    ...(beyondWhiteOf(deliver) !== "none" ? [`${headroom} EV beyond white`] : []),
    ...(others.length ? [`and ${others.join(", ")}`] : []),
  ].join(", ");
}

const summary = ({ recipe: { deliver } }: Situation): StepSummary => ({
  sentence: sentenceOf(deliver),
  state: "fresh",
});

export const deliverScreen: StepScreen = {
  title: () => "Deliver",
  summary,
  Controls: DeliverControls,
};
