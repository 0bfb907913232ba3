import type { Situation, StepScreen, StepSummary } from "../step";
import { PrepareControls } from "./PrepareControls";
import { AS_IT_CAME, prepareSentence } from "./sentence";

function summary({ recipe }: Situation): StepSummary {
  const sentence = prepareSentence(recipe);
  return { sentence, state: sentence === AS_IT_CAME ? "fresh" : "done" };
}

export const prepareScreen: StepScreen = {
  title: () => "Prepare",
  summary,
  Controls: PrepareControls,
};
