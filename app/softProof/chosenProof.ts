import * as v from "valibot";
import { createStore } from "zustand/vanilla";
import { SOFT_PROOF_INTENTS } from "../../codecs/softProof";

const KEY = "soft proof";

const ChosenProofSchema = v.object({
  /** the profile's id */
  profile: v.optional(v.string()),
  intent: v.optional(v.picklist(SOFT_PROOF_INTENTS), "relative"),
  /** whether what the paper cannot show is marked */
  isMarked: v.optional(v.boolean(), true),
});
type ChosenProof = v.InferOutput<typeof ChosenProofSchema>;

function readChosen(): ChosenProof {
  try {
    return v.parse(ChosenProofSchema, JSON.parse(localStorage.getItem(KEY) ?? "{}"));
  } catch {
    return v.parse(ChosenProofSchema, {});
  }
}

/** The paper that pictures are seen as on, the same for all stacks, and whether they are. */
export const chosenProof = createStore<ChosenProof & { isOn: boolean }>(() => ({
  ...readChosen(),
  isOn: false,
}));

/** Chooses how pictures are seen on paper, and remembers it in this browser. */
export function chooseProof(change: Partial<ChosenProof & { isOn: boolean }>): void {
  chosenProof.setState(change);
  const { isOn: _isOn, ...kept } = chosenProof.getState();
  try {
    localStorage.setItem(KEY, JSON.stringify(kept));
  } catch {
    // it is chosen again then
  }
}

/** Shows pictures as on paper, or as on screen, where a paper was chosen. */
export function toggleProof(): void {
  const { profile, isOn } = chosenProof.getState();
  if (profile) chooseProof({ isOn: !isOn });
}
