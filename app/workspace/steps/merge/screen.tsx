import type { OneViewRecipe } from "../../../../pipeline/recipe/recipe";
import { Menu } from "../../../ui/Menu";
import { Setting } from "../../Setting";
import { usePartaking } from "../../state/partaking";
import { useOneViewRecipe, useWorkspace } from "../../state/workspace";
import { mergedState, type Situation, type StepScreen, type StepSummary } from "../step";

const METHODS: Record<OneViewRecipe["merge"]["method"], string> = {
  radiance: "Radiance, weighted by noise",
  fusion: "Fused, the best of each exposure",
  pyramid: "Fused, the sharpest at every place and scale",
  depth: "Composed along the depth",
  mixed: "Composed along the depth, fused where depths cross",
};

function summary({ recipe, session }: Situation<OneViewRecipe>): StepSummary {
  const { aligned } = session;
  const reference = aligned ? `, reference ${aligned.reference + 1}` : "";
  return { sentence: `${METHODS[recipe.merge.method]}${reference}`, state: mergedState(session) };
}

function MergeControls() {
  const { kind } = useOneViewRecipe();
  return (
    <>
      <Setting name="merge.method" />
      {kind === "bracket" && <ReferenceFrame />}
      <Setting name="merge.sampling" />
    </>
  );
}

function ReferenceFrame() {
  const { edit } = useWorkspace();
  const recipe = useOneViewRecipe();
  const partaking = usePartaking();
  return (
    <Menu
      label="Reference"
      hint="The frame that the others are aligned to, and that wins where things moved."
      value={String(recipe.merge.reference)}
      options={[
        { value: "auto", text: "Middle exposure" },
        ...partaking.map(({ name }, i) => ({ value: String(i), text: name })),
      ]}
      onChange={(value) => {
        const reference = value === "auto" ? value : Number(value);
        edit.keep({ ...recipe, merge: { ...recipe.merge, reference } }, "Reference frame");
      }}
    />
  );
}

export const mergeScreen: StepScreen<OneViewRecipe> = {
  title: () => "Merge",
  summary,
  Controls: MergeControls,
};
