import type { OneViewRecipe } from "../../../../pipeline/recipe/recipe";
import { shownAgain } from "../../../../pipeline/align/step";
import { Setting } from "../../Setting";
import { useSession } from "../../state/workspace";
import { mergedState, type Situation, type StepScreen, type StepSummary } from "../step";
import { AlignedFrames } from "./AlignedFrames";
import { alignSentence } from "./sentence";

/** Frames that could not be aligned, and why. */
function failedFrames({
  recipe,
  frames,
  session: { aligned },
}: Situation<OneViewRecipe>): string[] {
  const again = shownAgain(aligned);
  const decided = [...recipe.align.forced, ...recipe.frames.leftOut];
  return (aligned?.frames ?? []).flatMap(({ warning }, i) => {
    const frame = frames[i];
    if (!warning || !frame || again.has(i) || decided.includes(frame.id)) return [];
    return [`${frame.info.name} ${warning}`];
  });
}

function summary(situation: Situation<OneViewRecipe>): StepSummary {
  const { recipe, session, frames, used } = situation;
  const failed = failedFrames(situation);
  return {
    sentence: alignSentence(
      { recipe, aligned: session.aligned, ready: session.phase === "ready" },
      {
        used: used.length,
        failed,
        size: frames[0]?.info ?? { width: 1, height: 1 },
      },
    ),
    state: failed.length ? "attention" : mergedState(session),
  };
}

function AlignControls() {
  const aligned = useSession((s) => s.aligned);
  return (
    <>
      <Setting name="align.motion" />
      {aligned && <AlignedFrames aligned={aligned} />}
    </>
  );
}

export const alignScreen: StepScreen<OneViewRecipe> = {
  title: () => "Align",
  summary,
  Controls: AlignControls,
};
