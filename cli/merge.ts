import { parse, usage, openPool, numberOf, say, CACHE_MIB } from "./arguments";
import { extname } from "node:path";
import { type Recipe, defaultRecipe, withSetting } from "../pipeline/recipe/recipe";
import { readFile } from "node:fs/promises";
import { RhizomeError } from "../core/error";
import { readFrames } from "./readFrames";
import { deliverStack } from "../pipeline/deliverStack";
import { nodeResultCache } from "../runtime/hosts/nodeResultCache";
import type { Parts } from "../codecs/stream";
import { lookOf } from "./look";
import { reportOf } from "./report";
import { writeWhole } from "../runtime/hosts/writeWhole";
import { formatByEnding, OUTPUT_FORMAT_IDS, OUTPUT_FORMATS } from "../codecs/outputFormats";
import { readRecipeText, recipeFor, type RecipeOfFile } from "../pipeline/recipe/recipeFile";

export async function merge(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, {
    as: { type: "string" },
    out: { type: "string" },
    recipe: { type: "string" },
    set: { type: "string", multiple: true },
    look: { type: "string" },
    amount: { type: "string" },
    report: { type: "string" },
    threads: { type: "string" },
    memory: { type: "string" },
    cache: { type: "string" },
    "cache-size": { type: "string" },
    depth: { type: "string" },
    space: { type: "string" },
    progress: { type: "boolean" },
  });
  if (!positionals.length) throw usage("merge needs frames");
  if (!values.out) throw usage("merge needs --out FILE");
  const format = formatByEnding(extname(values.out));
  if (!format) throw usage(`"${values.out}" has no ending that can be written: ${usualEndings()}`);
  const ofFile = values.recipe ? await readRecipe(values.recipe) : undefined;
  const begun = ofFile?.recipe ?? defaultRecipe(values.as ?? "");
  if (values.as && values.as !== begun.kind)
    throw usage(`the recipe is for a ${begun.kind}, not a ${values.as}`);
  let r: Recipe = (await lookOf(values))(begun);
  // a recipe that is for such a file says what it is to be
  const said = ofFile && r.deliver.format === format ? r.deliver : undefined;
  const { commandDepth, light } = OUTPUT_FORMATS[format];
  r = withSetting(r, `deliver.format=${format}`);
  r = withSetting(r, `deliver.depth=${values.depth ?? said?.depth ?? commandDepth}`);
  // a file without a curve of its own is linear unless another space is asked for
  r = withSetting(r, `deliver.space=${values.space ?? said?.space ?? (light ? "linear" : "srgb")}`);
  for (const s of values.set ?? []) r = withSetting(r, s);
  const pool = openPool(numberOf("threads", values.threads), numberOf("memory", values.memory));
  const { frames, failed } = await readFrames(pool, positionals);
  if (failed.length) throw failed[0]!;
  if (ofFile) r = recipeFor({ ...ofFile, recipe: r }, frames);
  const show = values.progress || process.stderr.isTTY;
  const done = await deliverStack(pool, frames, r, {
    ...(values.cache
      ? {
          keptIn: nodeResultCache(
            values.cache,
            (numberOf("cache-size", values["cache-size"]) ?? CACHE_MIB) * 2 ** 20,
          ),
        }
      : {}),
    now: () => performance.now(),
    findSuspects: values.report !== undefined,
    progress: (share, doing) => {
      if (show) say(`${Math.round(share * 100)} % ${doing}`);
    },
  });
  await save(values.out, done.file as Parts);
  if (values.report)
    await save(values.report, [
      new TextEncoder().encode(
        `${JSON.stringify(reportOf(frames, done, values.out, r, pool.budget), null, 2)}\n`,
      ),
    ]);
}

const usualEndings = (): string =>
  OUTPUT_FORMAT_IDS.map((id) => OUTPUT_FORMATS[id].endings[0]).join(" ");

/** Reads a recipe from a file. @throws RhizomeError `unreadable`, and what reading it throws */
async function readRecipe(file: string): Promise<RecipeOfFile> {
  const text = await readFile(file, "utf8").catch(() => {
    throw new RhizomeError("unreadable", `${file} cannot be opened.`, "check the path");
  });
  return readRecipeText(text, file);
}

export async function save(file: string, parts: Parts): Promise<void> {
  try {
    await writeWhole(file, parts);
  } catch (e) {
    throw new RhizomeError(
      "unwritable",
      `${file} cannot be written: ${(e as NodeJS.ErrnoException).code ?? "unknown reason"}.`,
      "check the path, the rights and the free space",
    );
  }
}
