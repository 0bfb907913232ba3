import type { Situation, StepScreen, StepSummary } from "../step";
import { FinishControls } from "./FinishControls";
import { finishSaid } from "./sentence";

function summary({ recipe: { finish } }: Situation): StepSummary {
  const sentence = finishSaid(finish);
  return { sentence, state: sentence === "Nothing set" ? "fresh" : "done" };
}

export const finishScreen: StepScreen = {
  title: () => "Finish",
  summary,
  Controls: FinishControls,
};
