import { alignBracket } from "../align/alignBracket";
import { alignFocus } from "../align/alignFocus";
import { bracketSuspects, focusSuspects } from "../merge/suspects";
import type { RecipeKind } from "../recipe/kinds";
import type { RecipeOf } from "../recipe/recipe";
import { alignedFrames } from "./alignedFrames";
import { joinedFrames } from "./joinedFrames";
import type { SceneMaker } from "./run";

interface SceneKind<K extends RecipeKind> extends SceneMaker<RecipeOf<K>> {
  /** whether suspects are found by which frame gave which pixel */
  judgedBySources: boolean;
}

/** How the frames of each kind of stack become one scene. */
export const SCENE_MAKERS: { readonly [K in RecipeKind]: SceneKind<K> } = {
  bracket: {
    ...alignedFrames({ align: alignBracket, findSuspects: bracketSuspects, aligningShare: 0 }),
    judgedBySources: false,
  },
  focus: {
    ...alignedFrames({
      align: (work, input, recipe, watch) => ({
        aligned: alignFocus(work, input, recipe.align, watch),
        response: Promise.resolve(undefined),
      }),
      findSuspects: focusSuspects,
      aligningShare: 0.2,
    }),
    judgedBySources: true,
  },
  panorama: { ...joinedFrames, judgedBySources: false },
};
