import { signed } from "../../../ui/format";
import { Setting } from "../../Setting";
import type { Situation, StepScreen, StepSummary } from "../step";

/** A share as a signed percentage, without a sign at nothing. */
const percent = (share: number): string => signed(share * 100, 0) || "0";

function summary({ recipe: { finish } }: Situation): StepSummary {
  if (!finish.contrast && !finish.saturation) return { sentence: "Nothing set", state: "fresh" };
  const { contrast, saturation } = finish;
  return {
    sentence: `Contrast ${percent(contrast)}, saturation ${percent(saturation)}`,
    state: "done",
  };
}

function FinishControls() {
  return (
    <>
      <Setting name="finish.contrast" />
      <Setting name="finish.saturation" />
    </>
  );
}

export const finishScreen: StepScreen = {
  title: () => "Finish",
  summary,
  Controls: FinishControls,
};
