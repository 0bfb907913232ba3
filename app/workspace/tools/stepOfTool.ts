import type { RecipeKind } from "../../../pipeline/recipe/kinds";
import type { StepName } from "../../../pipeline/registry";
import type { ToolName } from "./tool";

/** Tools whose controls stand in one step, whatever the kind; all others in the one below. */
const STEP_OF: Partial<Record<ToolName, StepName>> = {
  dust: "prepare",
  "light outline": "prepare",
  "light brush": "prepare",
  "light gradient": "prepare",
  pick: "prepare",
  crop: "edges",
  facade: "edges",
  "repair brush": "retouch",
  "repair outline": "retouch",
  "part outline": "finish",
  "part brush": "finish",
  "part gradient": "finish",
  "part ellipse": "finish",
  "part tones": "finish",
  "part colours": "finish",
  "part sample": "finish",
  vignette: "finish",
  hue: "finish",
};

/** Tools that set a picture upright: a panorama has them with its view, other pictures with edges. */
const UPRIGHT_TOOLS: readonly ToolName[] = ["level", "vertical", "turn", "roll"];

/** The step whose controls belong to a tool. */
export function stepOfTool(tool: ToolName, kind: RecipeKind): StepName {
  if (kind === "panorama") return STEP_OF[tool] ?? "panorama";
  return UPRIGHT_TOOLS.includes(tool) ? "edges" : (STEP_OF[tool] ?? "ghosts");
}
