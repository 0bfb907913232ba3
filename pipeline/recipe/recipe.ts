import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { hasStep, stepsOf, type StepOf } from "../kindSteps";
import { STEPS, type StepName } from "../registry";
import type { Field } from "../settings/fields";
import { readSetting } from "../settings/readSetting";
import { nearestSaid } from "../settings/nearest";
import { fieldNamed, fieldsOf, settingNames } from "../settings/reference";
import { valuesSaid } from "../settings/words";
import { isMerged, KINDS, type RecipeKind } from "./kinds";

type Schemas = { [S in StepName]: (typeof STEPS)[S]["settings"]["schema"] };
type Sections = { [S in StepName]: v.InferOutput<Schemas[S]> };

export const RECIPE_VERSION = 21;
/** The first version whose recipes hold only the steps that their kind has. */
export const STEPS_BY_KIND = 21;

/** The recipe of one kind of stack: a section for each step that the kind has. */
export type RecipeOf<K extends RecipeKind> = K extends RecipeKind
  ? { version: typeof RECIPE_VERSION; kind: K } & Pick<Sections, StepOf<K>>
  : never;
/** What a stack is made with, from its frames to its deliveries: a variant for each kind. */
export type Recipe = RecipeOf<RecipeKind>;
/** The recipe of frames that show one view. */
export type OneViewRecipe = RecipeOf<"bracket" | "focus">;
export type PanoramaRecipe = RecipeOf<"panorama">;
/** The settings of a step. */
export type Section<S extends StepName> = Sections[S];

/** A value for each step of a kind. */
const ofSteps = (kind: RecipeKind, of: (step: StepName) => unknown): object =>
  Object.fromEntries(stepsOf(kind).map((step) => [step, of(step)]));

const schemaOf = (kind: RecipeKind) =>
  v.object({
    version: v.literal(RECIPE_VERSION),
    kind: v.literal(kind),
    ...(ofSteps(kind, (step) => STEPS[step].settings.schema) as Pick<
      Schemas,
      StepOf<"bracket"> & StepOf<"panorama">
    >),
  });

export const RecipeSchema = v.variant("kind", KINDS.map(schemaOf)) as unknown as v.GenericSchema<
  unknown,
  Recipe
>;

/** The recipe that a stack of a kind begins with. @throws RhizomeError `kind-unknown` */
export function defaultRecipe<K extends RecipeKind>(kind: K): RecipeOf<K>;
export function defaultRecipe(kind: string): Recipe;
export function defaultRecipe(kind: string): Recipe {
  if (!isMerged(kind))
    throw new RhizomeError(
      "kind-unknown",
      `There is no recipe for "${kind}" yet.`,
      `use ${KINDS.join(", ")}`,
    );
  return {
    version: RECIPE_VERSION,
    kind,
    ...ofSteps(kind, (step) => defaultsOf(step, kind)),
  } as Recipe;
}

/** A step's settings as a stack of a kind begins with them. */
const defaultsOf = (step: StepName, kind: RecipeKind): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(fieldsOf(step)).map(([key, field]) => [
      key,
      structuredClone(field.defaultOf?.[kind] ?? field.default),
    ]),
  );

/** The settings of any step; undefined where the recipe's kind has no such step. */
export const sectionOf = (recipe: Recipe, step: StepName): Record<string, unknown> | undefined =>
  (recipe as Partial<Record<StepName, Record<string, unknown>>>)[step];

/**
 * The recipe that a stack of other stacks' results begins with: they are light, and toned like a
 * bracket.
 */
export const nestedRecipe = (kind: RecipeKind): Recipe => ({
  ...defaultRecipe(kind),
  tone: defaultRecipe("bracket").tone,
});

/**
 * A recipe as a stack of another kind takes it: what was chosen for its frames, their white and its
 * delivery stays.
 */
export function asKind(recipe: Recipe, kind: RecipeKind): Recipe {
  return recipe.kind === kind
    ? recipe
    : {
        ...defaultRecipe(kind),
        frames: recipe.frames,
        prepare: recipe.prepare,
        deliver: recipe.deliver,
      };
}

/**
 * How frames are prepared, without what was drawn on one view and what single frames have of their
 * own.
 */
export function forAnyView({
  prepare: { local: _local, exceptions: _exceptions, ...rest },
}: Recipe): Omit<Recipe["prepare"], "local" | "exceptions"> {
  return rest;
}

const OLDER_VERSIONS = Array.from({ length: RECIPE_VERSION - 1 }, (_, i) => i + 1);
/** The first version that calls a vertical guide so. */
const VERTICAL_GUIDES = 13;

/** Guides of a recipe that called a vertical one plumb. */
function renameGuides(guides: unknown): unknown {
  if (!Array.isArray(guides)) return guides;
  return guides.map((guide: { kind?: unknown } | null) =>
    guide?.kind === "plumb" ? { ...guide, kind: "vertical" } : guide,
  );
}

/** The first version that bounds a file by any of its sides. */
const FILE_SIZES = 17;
/** The first version whose finish has parts, and adjustments of the whole picture beside them. */
const FINISH_IN_PARTS = 14;
/** Saturation's factor on light became one on chroma: the same number is so much stronger. */
const CHROMA_A_SATURATION = 0.9;

/** The finish of a recipe that knew contrast and saturation alone. */
function finishOfWhole(finish: unknown): Recipe["finish"] {
  const { contrast = 0, saturation = 0 } = (finish ?? {}) as Record<string, number>;
  const rest = STEPS.finish.settings.defaults;
  const whole = { ...rest.whole, contrast, saturation: saturation * CHROMA_A_SATURATION };
  return { ...rest, whole };
}

/** The delivery of a recipe that bounded the longer edge alone, 0 for none. */
function withFileSize(deliver: unknown): Recipe["deliver"] {
  const { longEdge, ...rest } = {
    ...STEPS.deliver.settings.defaults,
    ...(deliver as { longEdge?: number } | undefined),
  };
  return longEdge ? { ...rest, size: `long ${longEdge}` } : rest;
}

/**
 * Brings a recipe of an older version up to this one: what was not there yet takes its default.
 * What is none is left as it is.
 */
function migrate(data: unknown): unknown {
  const r = data as Record<string, unknown> | null;
  if (r === null || typeof r !== "object" || !OLDER_VERSIONS.includes(r["version"] as number))
    return data;
  const kind = r["kind"];
  if (typeof kind !== "string" || !isMerged(kind)) return { ...r, version: RECIPE_VERSION };
  const whole = {
    version: RECIPE_VERSION,
    kind,
    ...ofSteps(kind, (step) => ({
      ...STEPS[step].settings.defaults,
      ...(r[step] as object | undefined),
    })),
  } as Recipe;
  if ((r["version"] as number) < VERTICAL_GUIDES && whole.kind === "panorama")
    whole.panorama = {
      ...whole.panorama,
      guides: renameGuides(whole.panorama.guides) as PanoramaRecipe["panorama"]["guides"],
    };
  if ((r["version"] as number) < FILE_SIZES) whole.deliver = withFileSize(r["deliver"]);
  if ((r["version"] as number) < FINISH_IN_PARTS) whole.finish = finishOfWhole(r["finish"]);
  // brackets had no borders to be cut before
  return r["kind"] === "bracket" && (r["version"] as number) < 5
    ? { ...whole, edges: { ...whole.edges, mode: defaultRecipe("bracket").edges.mode } }
    : whole;
}

/**
 * Reads a recipe that came from outside, of this version or an older one.
 *
 * @throws RhizomeError `recipe-invalid`, naming the setting and what it takes
 */
export function parseRecipe(data: unknown): Recipe {
  const result = v.safeParse(RecipeSchema, migrate(data));
  if (!result.success) {
    const issue = result.issues[0];
    throw invalid(v.getDotPath(issue) ?? "", issue.message);
  }
  const recipe = result.output;
  for (const step of stepsOf(recipe.kind))
    for (const [key, field] of Object.entries(fieldsOf(step)))
      checkKind(`${step}.${key}`, field, sectionOf(recipe, step)!, key, recipe.kind);
  return recipe;
}

/** Refuses a value of a choice that the recipe's kind does not know. */
function checkKind(
  name: string,
  field: Field,
  section: object,
  key: string,
  kind: RecipeKind,
): void {
  if (field.type !== "choice") return;
  const value = (section as Record<string, unknown>)[key];
  const known = field.options.filter(({ kinds }) => !kinds || kinds.includes(kind));
  if (known.some((option) => option.value === value)) return;
  throw new RhizomeError(
    "recipe-invalid",
    `The recipe's ${name} is not right: a ${kind} has no "${String(value)}".`,
    `use ${known.map((option) => option.value).join(", ")}`,
  );
}

/**
 * The error of a recipe that is not right.
 *
 * @param path  of the setting, and of what in it is wrong: `step.key.more`
 */
function invalid(path: string, message: string): RhizomeError {
  const keys = path.split(".");
  const field = fieldNamed(keys.slice(0, 3).join(".")) ?? fieldNamed(keys.slice(0, 2).join("."));
  return new RhizomeError(
    "recipe-invalid",
    `The recipe's ${path || "form"} is not right: ${message}.`,
    field
      ? `${field.label} takes ${plainly(valuesSaid(field))}`
      : "correct it, or start from `rhizome recipe bracket`",
  );
}

/** Without the quotation marks of code. */
const plainly = (text: string): string => text.replaceAll("`", "");

/**
 * Lays `step.key=value` over a recipe.
 *
 * @returns a recipe of the same kind
 * @throws RhizomeError `setting-unknown` or `recipe-invalid`
 */
export function withSetting<R extends Recipe>(recipe: R, assignment: string): R {
  const [, name = "", text] = /^(\w+(?:\.\w+)+)=(.*)$/s.exec(assignment) ?? [];
  const field = fieldNamed(name);
  const [wrong = ""] = assignment.split("=");
  if (!field || field.type === "group")
    throw new RhizomeError(
      "setting-unknown",
      `There is no setting "${wrong}"${nearestSaid(wrong, settingNames())}.`,
      "settings are written step.key=value; `rhizome merge --help` lists them",
    );
  const [step] = name.split(".");
  if (!hasStep(recipe.kind, step as StepName))
    throw new RhizomeError(
      "setting-unknown",
      `There is no setting "${name}" for a ${recipe.kind}.`,
      `its steps are ${stepsOf(recipe.kind).join(", ")}`,
    );
  const read = readSetting(field, text!);
  if (!read)
    throw new RhizomeError(
      "recipe-invalid",
      `${name} cannot be "${text}".`,
      `${field.label} takes ${plainly(valuesSaid(field))}`,
    );
  return parseRecipe(withValueAt(recipe, name.split("."), read.value)) as R;
}

/** Plain data with another value at the end of a path. */
export function withValueAt<T extends object>(
  within: T,
  [key, ...rest]: readonly string[],
  value: unknown,
): T {
  const was = (within as Record<string, unknown>)[key!];
  const next = rest.length ? withValueAt(was as object, rest, value) : value;
  return { ...within, [key!]: next };
}

/** The value of a setting, by its name; undefined where the recipe's kind has no such step. */
export const valueOf = (recipe: Recipe, name: string): unknown =>
  name
    .split(".")
    .reduce<unknown>(
      (within, key) => (within as Record<string, unknown> | undefined)?.[key],
      recipe,
    );

/** A recipe that changes nothing of the merge but its exposure, EV. */
export const untoned = (recipe: Recipe, operator: "none" | "plain", exposure = 0): Recipe => ({
  ...recipe,
  tone: {
    ...recipe.tone,
    operator,
    exposure,
    lifts: recipe.tone.lifts.map(() => 0),
    white: 0,
    black: 0,
  },
  finish: STEPS.finish.settings.defaults,
});

/** A recipe with another reference frame; a panorama has none. */
export const withReference = (recipe: Recipe, reference: Section<"merge">["reference"]): Recipe =>
  recipe.kind === "panorama" ? recipe : { ...recipe, merge: { ...recipe.merge, reference } };

/** Whether a merge says what each of its pixels is worth: the sum of inverse variances. */
export const weighsNoise = (recipe: Recipe): boolean =>
  recipe.kind === "bracket" && recipe.merge.method === "radiance";

/** Whether frames are fused into a picture as they are, without the light of the scene. */
export const isFused = (recipe: Recipe): boolean =>
  recipe.kind === "bracket" && recipe.merge.method === "fusion";

/**
 * The tone that is applied: a fusion is a picture already, and only exposure, contrast and colour
 * are changed on it.
 */
export const toneOf = (recipe: Recipe): Recipe["tone"] =>
  isFused(recipe) ? { ...recipe.tone, operator: "plain" } : recipe.tone;
