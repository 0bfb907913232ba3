import type { ComponentType } from "react";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { RecipeKind } from "../../../pipeline/recipe/kinds";
import type { WorkFrame } from "../../store/shoots";
import type { Kept, SessionState } from "../../work/sessionState";

/** What a step's sentence is written from. */
export interface Situation<R extends Recipe = Recipe> {
  recipe: R;
  frames: readonly WorkFrame[];
  /** the frames that take part */
  used: readonly WorkFrame[];
  session: SessionState;
  /** the part of the picture that goes out */
  kept: Kept | undefined;
}

/** Nothing set; at work; done; something to look at. */
export type StepState = "fresh" | "running" | "done" | "attention";

/** What a step did, in words. */
export interface StepSummary {
  sentence: string;
  state: StepState;
}

/** A step of the recipe as the stem shows it. @template R  recipes of the kinds that have it */
export interface StepScreen<R extends Recipe = Recipe> {
  title: (kind: RecipeKind) => string;
  summary(situation: Situation<R>): StepSummary;
  /** the controls that its sentence opens into */
  Controls: ComponentType;
}

/** The state of a step that is done when the stack is merged. */
export function mergedState({ phase }: SessionState): StepState {
  if (phase === "working") return "running";
  return phase === "ready" ? "done" : "fresh";
}
