import type { Situation, StepScreen, StepSummary } from "../step";
import { RepairControls } from "./RepairControls";
import { repairsSaid } from "./sentence";

function summary({ recipe: { retouch } }: Situation): StepSummary {
  return {
    sentence: repairsSaid(retouch),
    state: retouch.repairs.some(({ on }) => on) ? "done" : "fresh",
  };
}

export const retouchScreen: StepScreen = {
  title: () => "Repair",
  summary,
  Controls: RepairControls,
};
