import type { RecipeKind } from "../recipe/kinds";
import { alignedFrames } from "./alignedFrames";
import { joinedFrames } from "./joinedFrames";
import type { SceneMaker } from "./run";

/** How the frames of each kind of stack become one scene. */
export const SCENE_MAKERS: Readonly<Record<RecipeKind, SceneMaker>> = {
  bracket: alignedFrames,
  focus: alignedFrames,
  panorama: joinedFrames,
};

/** Whether suspects of a merge are found by which frame gave which pixel. */
export const JUDGED_BY_SOURCES: Readonly<Record<RecipeKind, boolean>> = {
  bracket: false,
  focus: true,
  panorama: false,
};
