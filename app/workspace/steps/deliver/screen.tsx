import { SPACES } from "../../../../core/colour/spaces";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import type { Situation, StepScreen, StepSummary } from "../step";
import { DeliverControls } from "./DeliverControls";

function formatText({ format, depth, quality }: Recipe["deliver"]): string {
  const bits = depth === "32f" ? "32-bit float" : `${depth}-bit`;
  switch (format) {
    case "jpg":
      return `JPEG, quality ${quality}`;
    case "png":
      return `${bits} PNG`;
    case "tif":
      return `${bits} TIFF`;
    case "exr":
      return `${depth === "32f" ? "Float" : "Half-float"} EXR, linear`;
    default:
      return "Radiance HDR, linear";
  }
}

const summary = ({ recipe: { deliver } }: Situation): StepSummary => ({
  sentence: `${formatText(deliver)}, ${SPACES[deliver.space].name}`,
  state: "fresh",
});

export const deliverScreen: StepScreen = {
  title: () => "Deliver",
  summary,
  Controls: DeliverControls,
};
