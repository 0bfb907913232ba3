import type { ResponseCurve } from "../../core/bracket/estimateResponse";
import type { Watch } from "../../runtime/work";
import { findResponse } from "../prepare/step";
import type { OneViewRecipe } from "../recipe/recipe";
import type { Work } from "../work";
import { alignStep, type Aligned, type AlignInput } from "./step";

/** What is being found of the frames: their places, and before them how samples stand to light. */
export interface Aligning {
  aligned: Promise<Aligned>;
  response: Promise<ResponseCurve | undefined>;
}

/**
 * Begins to find how samples of a bracket's frames stand to light, and then how each frame lies
 * against the reference frame, and what moved.
 *
 * @throws RhizomeError `size-mismatch`, by the promises
 */
export function alignBracket(
  work: Work,
  input: Pick<AlignInput, "frames" | "loaded" | "reference" | "downscale">,
  { align, merge, prepare }: Pick<OneViewRecipe, "align" | "merge" | "prepare">,
  { signal, progress }: Watch,
): Aligning {
  const on = signal ? { signal } : {};
  progress(0, "Aligning");
  const response = findResponse(work, input.frames, input.loaded, prepare, on);
  const aligned = response.then((found) =>
    alignStep.run(
      work,
      {
        ...input,
        deghost: merge.deghost === "auto",
        strength: merge.ghostStrength,
        response: found,
      },
      align,
      on,
    ),
  );
  return { aligned, response };
}
