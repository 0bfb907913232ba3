import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { STEP_NAMES, STEPS, type StepName } from "../registry";

type Schemas = { [K in StepName]: (typeof STEPS)[K]["settings"]["schema"] };
const ofSteps = <T>(of: (name: StepName) => unknown): T =>
  Object.fromEntries(STEP_NAMES.map((name) => [name, of(name)])) as T;

export const RECIPE_VERSION = 13;
/** Kinds of stacks that are merged. */
export const KINDS = ["bracket", "panorama", "focus"] as const;
export type RecipeKind = (typeof KINDS)[number];
/** Whether stacks of a kind are merged, and so have a recipe. */
export const isMerged = (kind: string): kind is RecipeKind =>
  (KINDS as readonly string[]).includes(kind);
export const RecipeSchema = v.object({
  version: v.literal(RECIPE_VERSION),
  kind: v.picklist(KINDS),
  ...ofSteps<Schemas>((name) => STEPS[name].settings.schema),
});
export type Recipe = v.InferOutput<typeof RecipeSchema>;

/** The recipe that a stack of a kind begins with. @throws RhizomeError `kind-unknown` */
export function defaultRecipe(kind: string): Recipe {
  if (!isMerged(kind))
    throw new RhizomeError(
      "kind-unknown",
      `There is no recipe for "${kind}" yet.`,
      `use ${KINDS.join(", ")}`,
    );
  const defaults = ofSteps<Pick<Recipe, StepName>>((name) =>
    structuredClone(STEPS[name].settings.defaults),
  );
  // ordinary frames come out as they went in
  return {
    version: RECIPE_VERSION,
    kind,
    ...defaults,
    ...(kind === "bracket"
      ? { edges: { ...defaults.edges, mode: WHOLE } }
      : { tone: { ...defaults.tone, operator: "plain" as const } }),
    ...(kind === "focus" ? { merge: { ...defaults.merge, method: "mixed" } } : {}),
  };
}

/** The reference frame of a bracket covers all of it: nothing is cut off unless it is asked for. */
const WHOLE = "keep";

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

/**
 * Brings a recipe of an older version up to this one: what was not there yet takes its default.
 * What is none is left as it is.
 */
function migrate(data: unknown): unknown {
  const r = data as Record<string, unknown> | null;
  if (r === null || typeof r !== "object" || !OLDER_VERSIONS.includes(r["version"] as number))
    return data;
  const whole = {
    ...r,
    version: RECIPE_VERSION,
    ...ofSteps<Pick<Recipe, StepName>>((name) => ({
      ...STEPS[name].settings.defaults,
      ...(r[name] as object | undefined),
    })),
  };
  if ((r["version"] as number) < VERTICAL_GUIDES)
    whole.panorama = {
      ...whole.panorama,
      guides: renameGuides(whole.panorama.guides) as Recipe["panorama"]["guides"],
    };
  // brackets had no borders to be cut before
  return r["kind"] === "bracket" && (r["version"] as number) < 5
    ? { ...whole, edges: { ...whole.edges, mode: WHOLE } }
    : whole;
}

/** Ways of merging that a kind knows. */
const METHODS: Record<RecipeKind, readonly Recipe["merge"]["method"][]> = {
  bracket: ["radiance", "fusion"],
  panorama: ["radiance"],
  focus: ["pyramid", "depth", "mixed"],
};

/**
 * Reads a recipe that came from outside, of this version or an older one.
 *
 * @throws RhizomeError `recipe-invalid`, naming the setting
 */
export function parseRecipe(data: unknown): Recipe {
  const result = v.safeParse(RecipeSchema, migrate(data));
  if (result.success) {
    const { kind, merge, edges } = result.output;
    if (!METHODS[kind].includes(merge.method))
      throw new RhizomeError(
        "recipe-invalid",
        `The recipe's merge.method is not right: a ${kind} has no "${merge.method}".`,
        `use ${METHODS[kind].join(" or ")}`,
      );
    if (kind !== "panorama" && (edges.mode === "extend" || edges.mode === "rectangle"))
      throw new RhizomeError(
        "recipe-invalid",
        `The recipe's edges.mode is not right: a ${kind} has no borders to ${edges.mode === "extend" ? "fill" : "bend"}.`,
        "use crop or keep",
      );
    return result.output;
  }
  const issue = result.issues[0];
  throw new RhizomeError(
    "recipe-invalid",
    `The recipe's ${v.getDotPath(issue) ?? "form"} is not right: ${issue.message}.`,
    "correct that setting, or start from `rhizome recipe bracket`",
  );
}

/**
 * Lays `step.key=value` over a recipe.
 *
 * @throws RhizomeError `setting-unknown` or `recipe-invalid`
 */
export function withSetting(recipe: Recipe, assignment: string): Recipe {
  const m = /^(\w+)\.(\w+)=(.*)$/s.exec(assignment);
  const step = m?.[1] as StepName | undefined;
  const known = step && Object.hasOwn(STEPS, step) && Object.hasOwn(recipe[step], m![2]!);
  if (!m || !known)
    throw new RhizomeError(
      "setting-unknown",
      `There is no setting "${assignment.split("=")[0]}".`,
      "settings are written step.key=value, with the names of `rhizome recipe bracket`",
    );
  const was = (recipe[step!] as Record<string, unknown>)[m[2]!];
  const text = m[3]!;
  let value: unknown;
  if (m[2] === "extent" || m[2] === "part") {
    if (text === "auto") value = text;
    else value = text.split(",").map(Number);
  } else if (
    typeof was === "number" ||
    ((m[2] === "reference" || m[2] === "width") && /^\d+$/.test(text))
  )
    value = Number(text);
  else if (Array.isArray(was))
    value = text
      .split(",")
      .filter(Boolean)
      .map((t) => (typeof was[0] === "number" ? Number(t) : t));
  else value = text;
  return parseRecipe({ ...recipe, [step!]: { ...recipe[step!], [m[2]!]: value } });
}

/**
 * The tone that is applied: a fusion is a picture already, and only exposure, contrast and colour
 * are changed on it.
 */
export const toneOf = ({ merge, tone }: Recipe): Recipe["tone"] =>
  merge.method === "fusion" ? { ...tone, operator: "plain" } : tone;
