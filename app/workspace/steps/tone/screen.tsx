import { useRef } from "react";
import { TONE_OPERATORS } from "../../../../core/tone/operators/operators";
import { isFused, type Recipe } from "../../../../pipeline/recipe/recipe";
import { Setting } from "../../Setting";
import { useRecipe, useSession, useWorkspace } from "../../state/workspace";
import type { Situation, StepScreen, StepSummary } from "../step";
import { ZoneLifts } from "./ZoneLifts";

function operatorText({ operator, strength }: Recipe["tone"]): string {
  if (operator === "plain") return "Plain, as the reference frame";
  if (operator === "none") return "None, light itself";
  return `${TONE_OPERATORS[operator].sentence}, ${Math.round(strength * 100)} %`;
}

function summary({ recipe, session }: Situation): StepSummary {
  const { tone } = recipe;
  const zones = tone.lifts.some((lift) => lift) ? ", zones lifted" : "";
  return {
    sentence: isFused(recipe) ? "A fusion is toned already" : `${operatorText(tone)}${zones}`,
    state: session.phase === "ready" ? "done" : "fresh",
  };
}

function ToneControls() {
  const { view } = useWorkspace();
  // both ends are marked while one of them is moved
  const wereMarked = useRef(false);
  const markEnds = (isDragging: boolean): void => {
    if (isDragging) wereMarked.current = view.getState().clipped;
    view.setState({ clipped: isDragging || wereMarked.current });
  };
  return (
    <>
      <Setting name="tone.operator" />
      <Setting name="tone.strength" />
      <Setting name="tone.detail" />
      <Setting name="tone.exposure" />
      <Zones />
      <Setting name="tone.white" onDrag={markEnds} />
      <Setting name="tone.black" onDrag={markEnds} />
    </>
  );
}

function Zones() {
  const { edit } = useWorkspace();
  const recipe = useRecipe();
  const statistics = useSession((s) => s.statistics);
  const withLifts = (lifts: Recipe["tone"]["lifts"]): Recipe => ({
    ...recipe,
    tone: { ...recipe.tone, lifts },
  });
  return (
    <ZoneLifts
      lifts={recipe.tone.lifts}
      statistics={statistics}
      onShow={(lifts) => edit.show(withLifts(lifts))}
      onKeep={(lifts) => edit.keep(withLifts(lifts), "Lift a zone")}
    />
  );
}

export const toneScreen: StepScreen = { title: () => "Tone", summary, Controls: ToneControls };
