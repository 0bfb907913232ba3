import { appendFile, readFile } from "node:fs/promises";
import { basename, extname } from "node:path";
import { RhizomeError } from "../../core/error";
import {
  builtInDelivery,
  BUILT_IN_DELIVERIES,
  parseDelivery,
} from "../../pipeline/deliver/deliveries";
import { filesOfStack, withoutClashes } from "../../pipeline/deliver/fileName";
import { fileSettings, type Delivery } from "../../pipeline/deliver/settings";
import { recipeText, RECIPE_ENDING } from "../../pipeline/recipe/recipeFile";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { StackFrame } from "../arguments";
import { save } from "../merge";

/** What a batch delivers where nothing is said: a JPEG beside the others of its stack. */
const USUAL: Delivery = {
  name: "",
  on: true,
  settings: { ...fileSettings.defaults, pattern: "{name}-merged" },
};

/**
 * Deliveries by the names of those that are built in, or by their files.
 *
 * @throws RhizomeError `delivery-unknown`, `delivery-invalid`
 */
export async function deliveriesOf(names: readonly string[]): Promise<Delivery[]> {
  if (!names.length) return [USUAL];
  return Promise.all(
    names.map(async (name) => {
      const built = builtInDelivery(name);
      if (built) return built;
      const text = await readFile(name, "utf8").catch(() => {
        throw new RhizomeError(
          "delivery-unknown",
          `There is no delivery "${name}", and no file of that name can be opened.`,
          `built in are ${BUILT_IN_DELIVERIES.map((own) => own.name).join(", ")}`,
        );
      });
      return parseDelivery(jsonOf(text), name);
    }),
  );
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** The names of all files of a batch, a row a stack and a column a delivery; none twice. */
export function namedFiles(
  stacks: readonly { kind: string; frames: readonly StackFrame[] }[],
  deliveries: readonly Delivery[],
  shoot: string,
): string[][] {
  const wanted = stacks.flatMap(({ kind, frames }, i) => {
    const infos = frames.map((frame) => frame.info);
    const { name: first } = frames[0]!.source;
    const name = basename(first, extname(first));
    const stack = { name, kind, infos, take: "", shoot, number: i + 1 };
    return filesOfStack(stack, deliveries);
  });
  const names = withoutClashes(wanted);
  return stacks.map((_, i) => names.slice(i * deliveries.length, (i + 1) * deliveries.length));
}

/** Where the recipe of a picture is. */
export const recipeFile = (picture: string): string =>
  `${picture.slice(0, -extname(picture).length)}${RECIPE_ENDING}`;

/** Writes the recipe of a picture beside it; the same bytes can be made of it again. */
export function saveRecipe(
  picture: string,
  recipe: Recipe,
  frames: readonly StackFrame[],
): Promise<void> {
  return save(recipeFile(picture), [new TextEncoder().encode(recipeText(recipe, frames))]);
}

/** Writes what happened as lines of JSON, one a file, as it happens. */
export const batchLog =
  (file: string | undefined) =>
  async (entry: Record<string, unknown>): Promise<void> => {
    if (file)
      await appendFile(file, `${JSON.stringify({ at: new Date().toISOString(), ...entry })}\n`);
  };

/** How long a batch goes on, by how long it took so far. */
export function timeLeft(ms: number, done: number, all: number): string {
  if (!done) return "";
  const seconds = ((ms / done) * (all - done)) / 1000;
  return seconds < 90
    ? `, about ${Math.ceil(seconds)} s left`
    : `, about ${Math.ceil(seconds / 60)} min left`;
}
