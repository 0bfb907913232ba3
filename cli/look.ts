import { readFile } from "node:fs/promises";
import { RhizomeError } from "../core/error";
import { applyLook } from "../pipeline/looks/applyLook";
import { BUILT_IN_LOOKS } from "../pipeline/looks/builtIn";
import { lookText, MOST_AMOUNT, readLook, type Look } from "../pipeline/looks/look";
import { looksSaid } from "../pipeline/looks/makeLook";
import type { Recipe } from "../pipeline/recipe/recipe";
import { out, parse, usage } from "./arguments";

/** `rhizome look list`, `rhizome look show NAME` */
export async function look(args: string[]): Promise<void> {
  const { positionals } = parse(args, {});
  const [what, name] = positionals;
  if (what === "list" && positionals.length === 1)
    for (const built of BUILT_IN_LOOKS)
      out(`${built.name}\t${built.note}\tsets ${looksSaid(built)}`);
  else if (what === "show" && name && positionals.length === 2)
    out(lookText(await lookNamed(name)).trimEnd());
  else throw usage('look is called as "look list" or "look show NAME"');
}

/**
 * A look by the name of one that is built in, or by its file.
 *
 * @throws RhizomeError `look-unknown`, `look-invalid`
 */
async function lookNamed(name: string): Promise<Look> {
  const built = BUILT_IN_LOOKS.find((own) => own.name.toLowerCase() === name.toLowerCase());
  if (built) return built;
  const text = await readFile(name, "utf8").catch(() => {
    throw new RhizomeError(
      "look-unknown",
      `There is no look "${name}", and no file of that name can be opened.`,
      "rhizome look list names those that are built in",
    );
  });
  return readLook(text, name);
}

/** What of the options says which look is laid over recipes, and how far. */
export interface LookOptions {
  look?: string | undefined;
  amount?: string | undefined;
}

/**
 * Reads the look that is asked for, once for all recipes.
 *
 * @returns what applies it
 * @throws RhizomeError `usage`, `look-unknown`, `look-invalid`
 */
export async function lookOf({
  look: name,
  amount: text,
}: LookOptions): Promise<(recipe: Recipe) => Recipe> {
  if (name === undefined) {
    if (text !== undefined) throw usage("--amount is of a look: name one by --look");
    return (recipe) => recipe;
  }
  const amount = text === undefined ? 1 : Number(text);
  if (!(amount >= 0 && amount <= MOST_AMOUNT))
    throw usage(`--amount goes from 0 to ${MOST_AMOUNT}, not "${text}"`);
  const found = await lookNamed(name);
  return (recipe) => applyLook(recipe, found, amount);
}
