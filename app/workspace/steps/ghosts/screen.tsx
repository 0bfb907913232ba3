import type { OneViewRecipe } from "../../../../pipeline/recipe/recipe";
import { mergedState, type Situation, type StepScreen, type StepSummary } from "../step";
import { GhostControls } from "./GhostControls";
import { ghostSentence } from "./sentence";

function summary({ recipe, session }: Situation<OneViewRecipe>): StepSummary {
  const isUntouched = recipe.kind === "focus" && !recipe.ghosts.patches.some((patch) => patch.on);
  return {
    sentence: ghostSentence({
      recipe,
      aligned: session.aligned,
      ready: session.phase === "ready",
    }),
    state: isUntouched ? "fresh" : mergedState(session),
  };
}

export const ghostsScreen: StepScreen<OneViewRecipe> = {
  title: (kind) => (kind === "focus" ? "Retouch" : "Ghosts"),
  summary,
  Controls: GhostControls,
};
