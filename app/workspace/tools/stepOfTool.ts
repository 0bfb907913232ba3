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

/** The step whose controls belong to a tool. */
export const stepOfTool = (tool: ToolName, kind: RecipeKind): StepName =>
  STEP_OF[tool] ?? (kind === "panorama" ? "panorama" : "ghosts");
