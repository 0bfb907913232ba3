import { mergedState, type Situation, type StepScreen, type StepSummary } from "../step";
import { EdgesControls } from "./EdgesControls";
import { edgesSentence } from "./sentence";

/** More than so much of what is kept may not be empty unseen. */
const EMPTY = 0.0005;

function summary({ recipe, session, kept }: Situation): StepSummary {
  const unbent = session.layout?.warnings.find((warning) => warning.code === "not-bent");
  if (unbent) return { sentence: `Not bent: ${unbent.message}`, state: "attention" };
  const isShort = kept !== undefined && recipe.edges.part !== "auto" && kept.empty > EMPTY;
  return {
    sentence: edgesSentence(recipe, kept?.region, kept?.empty ?? 0),
    state: isShort ? "attention" : mergedState(session),
  };
}

export const edgesScreen: StepScreen = { title: () => "Edges", summary, Controls: EdgesControls };
