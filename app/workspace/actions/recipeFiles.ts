import { RhizomeError } from "../../../core/error";
import {
  readRecipeText,
  recipeFor,
  recipeText,
  RECIPE_ENDING,
} from "../../../pipeline/recipe/recipeFile";
import { safeName } from "../../../pipeline/deliver/fileName";
import { handOver } from "../../work/handOver";
import type { Workspace } from "../state/workspace";
import { changeTakes, type TakeHands } from "./takes";

const KIND_WORDS = { bracket: "bracket", panorama: "panorama", focus: "focus stack" } as const;

/** Hands the recipe as it is on screen to the user, as a file. */
export function saveRecipe({ record, recipe, members }: Workspace): void {
  const { stack, take, takes } = record();
  const name = takes.length > 1 ? `${stack.name} ${take.name}` : stack.name;
  handOver({
    name: `${safeName(name)}${RECIPE_ENDING}`,
    content: new Blob([recipeText(recipe(), members)], { type: "application/json" }),
  });
}

/** Begins a take with the recipe of a file, or says why it is none for this stack. */
export async function takeFromFile(hands: TakeHands, file: File): Promise<void> {
  const { record, members, recipe: open, view } = hands.workspace;
  try {
    const read = readRecipeText(await file.text(), file.name);
    const { kind } = read.recipe;
    const own = open().kind;
    if (kind !== own)
      throw new RhizomeError(
        "recipe-invalid",
        `${file.name} is for a ${KIND_WORDS[kind]}, and this is a ${KIND_WORDS[own]}.`,
        "open it in a stack of its kind",
      );
    await changeTakes(hands, {
      intent: "new take",
      beside: record().take.id,
      name: file.name.replace(/(\.rhizome)?\.json$/i, "").slice(0, 100) || "From a file",
      recipe: recipeFor(read, members),
    });
  } catch (e) {
    view.setState({ note: RhizomeError.from(e).sentence });
  }
}
