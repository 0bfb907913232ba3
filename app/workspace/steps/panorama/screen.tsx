import { PanoramaControls } from "./PanoramaControls";
import { panoramaSentence } from "./sentence";
import { mergedState, type Situation, type StepScreen, type StepSummary } from "../step";

const summary = ({ session, used }: Situation): StepSummary => ({
  sentence: session.layout ? panoramaSentence(session.layout, used) : "Waits for the frames",
  state: session.layout?.leftOut.length ? "attention" : mergedState(session),
});

export const panoramaScreen: StepScreen = {
  title: () => "Panorama",
  summary,
  Controls: PanoramaControls,
};
