import * as v from "valibot";
import { SPACE_IDS } from "../colour/spaces";
import { RhizomeError } from "../error";

const range = (lo: number, hi: number) => v.pipe(v.number(), v.minValue(lo), v.maxValue(hi));

/** The settings of each step, with their defaults; the single source of truth for app, command line and undo. */
export const STEP_SETTINGS = {
  frames: v.object({ leftOut: v.array(v.string()) }),
  prepare: v.object({ temperature: range(1700, 25000), tint: range(-150, 150) }),
  align: v.object({ motion: v.picklist(["none", "shift", "similarity", "homography", "auto"]) }),
  merge: v.object({
    method: v.picklist(["radiance"]),
    reference: v.union([v.literal("auto"), v.pipe(v.number(), v.integer(), v.minValue(0))]),
    deghost: v.picklist(["off", "auto"]),
  }),
  tone: v.object({
    operator: v.picklist(["none", "plain", "local"]),
    strength: range(0, 1), detail: range(-1, 1), exposure: range(-8, 8),
  }),
  finish: v.object({ contrast: range(-1, 1), saturation: range(-1, 1) }),
  deliver: v.object({
    format: v.picklist(["jpg", "png", "tif", "exr", "hdr"]), space: v.picklist(SPACE_IDS), depth: v.picklist(["8", "16", "32f"]),
    quality: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(100)), chroma: v.picklist(["full", "half"]),
    compression: v.picklist(["none", "lzw", "deflate"]), creator: v.pipe(v.string(), v.maxLength(200)), copyright: v.pipe(v.string(), v.maxLength(400)),
  }),
} as const;

export const STEP_NAMES = Object.keys(STEP_SETTINGS) as (keyof typeof STEP_SETTINGS)[];
export type StepName = keyof typeof STEP_SETTINGS;

export const RECIPE_VERSION = 2;
export const RecipeSchema = v.object({ version: v.literal(RECIPE_VERSION), kind: v.literal("bracket"), ...STEP_SETTINGS });
export type Recipe = v.InferOutput<typeof RecipeSchema>;

export function defaultRecipe(kind: string): Recipe {
  if (kind !== "bracket") throw new RhizomeError("kind-unknown", `There is no recipe for "${kind}" yet.`, "use bracket");
  return {
    version: RECIPE_VERSION, kind: "bracket",
    frames: { leftOut: [] },
    prepare: { temperature: 6504, tint: 0 },
    align: { motion: "auto" },
    merge: { method: "radiance", reference: "auto", deghost: "auto" },
    tone: { operator: "local", strength: 0.7, detail: 0.15, exposure: 0 },
    finish: { contrast: 0, saturation: 0 },
    deliver: { format: "jpg", space: "srgb", depth: "8", quality: 92, chroma: "full", compression: "deflate", creator: "", copyright: "" },
  };
}

/** What older versions lacked, by the version that lacked it. */
const MIGRATIONS: Record<number, (r: Record<string, unknown>) => Record<string, unknown>> = {
  1: (r) => ({ ...r, version: 2, deliver: { chroma: "full", compression: "deflate", creator: "", copyright: "", ...(r["deliver"] as object) } }),
};

/** Brings a recipe of an older version up to this one; what is none is left as it is. */
function migrate(data: unknown): unknown {
  let r = data;
  while (r !== null && typeof r === "object" && Object.hasOwn(MIGRATIONS, (r as { version?: number }).version ?? "")) r = MIGRATIONS[(r as { version: number }).version]!(r as Record<string, unknown>);
  return r;
}

/** Reads a recipe that came from outside, of this version or an older one. @throws RhizomeError `recipe-invalid`, naming the setting */
export function parseRecipe(data: unknown): Recipe {
  const result = v.safeParse(RecipeSchema, migrate(data));
  if (result.success) return result.output;
  const issue = result.issues[0];
  throw new RhizomeError("recipe-invalid", `The recipe's ${v.getDotPath(issue) ?? "form"} is not right: ${issue.message}.`, "correct that setting, or start from `rhizome recipe bracket`");
}

/** Lays `step.key=value` over a recipe. @throws RhizomeError `setting-unknown` or `recipe-invalid` */
export function withSetting(recipe: Recipe, assignment: string): Recipe {
  const m = /^(\w+)\.(\w+)=(.*)$/s.exec(assignment);
  const step = m?.[1] as StepName | undefined;
  const known = step && Object.hasOwn(STEP_SETTINGS, step) && Object.hasOwn(recipe[step], m![2]!);
  if (!m || !known) throw new RhizomeError("setting-unknown", `There is no setting "${assignment.split("=")[0]}".`, "settings are written step.key=value, with the names of `rhizome recipe bracket`");
  const was = (recipe[step!] as Record<string, unknown>)[m[2]!];
  const text = m[3]!;
  const value = typeof was === "number" || (m[2] === "reference" && /^\d+$/.test(text)) ? Number(text) : Array.isArray(was) ? text.split(",").filter(Boolean) : text;
  return parseRecipe({ ...recipe, [step!]: { ...recipe[step!], [m[2]!]: value } });
}
