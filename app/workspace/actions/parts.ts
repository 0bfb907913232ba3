import { withRest, type Adjustments } from "../../../core/finish/adjustments";
import type { JoinedShape, PartShape } from "../../../core/finish/part";
import { clamp } from "../../../core/math/clamp";
import type { AdjustmentGroup } from "../../../pipeline/finish/adjustmentFields";
import { ADJUSTMENT_GROUPS } from "../../../pipeline/finish/adjustmentFields";
import type { KeptPart, KeptShape } from "../../../pipeline/finish/partSchema";
import type { FinishSettings } from "../../../pipeline/finish/step";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import { freeName } from "../../store/freeName";
import type { Workspace } from "../state/workspace";

/** The part that an id names; undefined for the whole picture. */
export const partOf = ({ finish }: Recipe, id: string | undefined): KeptPart | undefined =>
  finish.parts.find((part) => part.id === id);

/** All adjustments of a part, or of the whole picture. */
export function adjustmentsOf(recipe: Recipe, id: string | undefined): Adjustments {
  const part = partOf(recipe, id);
  return part ? withRest(part.adjustments) : recipe.finish.whole;
}

const withFinish = (recipe: Recipe, finish: Partial<FinishSettings>): Recipe => ({
  ...recipe,
  finish: { ...recipe.finish, ...finish },
});

/** A recipe in which a part is another. */
export const withPart = (recipe: Recipe, id: string, more: Partial<KeptPart>): Recipe =>
  withFinish(recipe, {
    parts: recipe.finish.parts.map((part) => (part.id === id ? { ...part, ...more } : part)),
  });

/** A recipe with other adjustments of a part, or of the whole picture. */
export function withAdjustments(
  recipe: Recipe,
  id: string | undefined,
  more: Partial<Adjustments>,
): Recipe {
  const part = partOf(recipe, id);
  return part
    ? withPart(recipe, part.id, {
        adjustments: { ...part.adjustments, ...more } as KeptPart["adjustments"],
      })
    : withFinish(recipe, { whole: { ...recipe.finish.whole, ...more } as FinishSettings["whole"] });
}

/** The groups that are switched off in a part, or in the whole picture. */
export const groupsOff = (recipe: Recipe, id: string | undefined): readonly AdjustmentGroup[] =>
  partOf(recipe, id)?.off ?? recipe.finish.off;

/** A recipe in which a group of a part is switched on or off. */
export function withGroup(
  recipe: Recipe,
  id: string | undefined,
  group: AdjustmentGroup,
  on: boolean,
): Recipe {
  const others = groupsOff(recipe, id).filter((name) => name !== group);
  const off = on ? others : [...others, group];
  const part = partOf(recipe, id);
  return part ? withPart(recipe, part.id, { off }) : withFinish(recipe, { off });
}

const SHAPE_NAMES: Record<PartShape["type"], string> = {
  outline: "Outline",
  brush: "Painted",
  gradient: "Gradient",
  ellipse: "Ellipse",
  tones: "Tones",
  colours: "Colours",
  sample: "Sample",
  sky: "Sky",
};

/** What a shape is called. */
export const shapeName = (type: PartShape["type"]): string => SHAPE_NAMES[type];

/** What a part is made of, in a few words. */
export function shapesSaid({ shapes }: Pick<KeptPart, "shapes">): string {
  const first = shapes[0]!;
  const alike = shapes.filter((shape) => shape.type === first.type).length;
  const name = shapeName(first.type).toLowerCase();
  if (alike === shapes.length) return alike === 1 ? name : `${name}, ${alike}`;
  return `${name}, ${shapes.length - 1} more`;
}

/** What a recipe's parts are called. */
const namesOf = ({ finish }: Recipe): string[] => finish.parts.map((part) => part.name);

/** Adds a shape that was drawn: to the part that is shown, or as a new one. */
export function addShape(workspace: Workspace, shape: PartShape): void {
  const { view, edit } = workspace;
  const recipe = workspace.recipe();
  const { joining, part: id } = view.getState();
  const part = partOf(recipe, id);
  if (part && joining !== "new") {
    const joined = { ...shape, joining } as JoinedShape as KeptShape;
    edit.keep(
      withPart(recipe, part.id, { shapes: [...part.shapes, joined] }),
      `${shapeName(shape.type)} of ${part.name}`,
    );
    return;
  }
  const made: KeptPart = {
    id: crypto.randomUUID(),
    name: freeName(namesOf(recipe), shapeName(shape.type)),
    on: true,
    amount: 1,
    inverted: false,
    feather: shape.type === "outline" ? 0.005 : 0,
    shapes: [{ ...shape, joining: "add" } as JoinedShape as KeptShape],
    off: [],
    adjustments: {},
  };
  edit.keep(
    withFinish(recipe, { parts: [...recipe.finish.parts, made] }),
    `New part: ${made.name}`,
  );
  // what follows is drawn into it
  view.setState({ part: made.id, joining: "add" });
}

/** Deletes a part; the one before it is shown then. */
export function deletePart({ view, edit, recipe }: Workspace, id: string): void {
  const now = recipe();
  const at = now.finish.parts.findIndex((part) => part.id === id);
  if (at < 0) return;
  const parts = now.finish.parts.filter((part) => part.id !== id);
  edit.keep(withFinish(now, { parts }), `Delete part: ${now.finish.parts[at]!.name}`);
  view.setState({ part: parts[at - 1]?.id, joining: "new", mask: undefined });
}

/** Makes another part like one, right after it. */
export function duplicatePart({ view, edit, recipe }: Workspace, id: string): void {
  const now = recipe();
  const part = partOf(now, id);
  if (!part) return;
  const copy = { ...part, id: crypto.randomUUID(), name: freeName(namesOf(now), part.name) };
  const parts = now.finish.parts.flatMap((p) => (p.id === id ? [p, copy] : [p]));
  edit.keep(withFinish(now, { parts }), `Duplicate part: ${part.name}`);
  view.setState({ part: copy.id });
}

/** Moves a part so many places up or down among the others. */
export function movePart({ edit, recipe }: Workspace, id: string, by: number): void {
  const now = recipe();
  const parts = [...now.finish.parts];
  const at = parts.findIndex((part) => part.id === id);
  const to = clamp(at + by, 0, parts.length - 1);
  if (at < 0 || to === at) return;
  const [part] = parts.splice(at, 1);
  parts.splice(to, 0, part!);
  edit.keep(withFinish(now, { parts }), `Move part: ${part!.name}`);
}

/** Shows the next part, or the one before; the whole picture is the first. */
export function walkParts({ view, recipe }: Workspace, by: number): void {
  const ids = [undefined, ...recipe().finish.parts.map((part) => part.id)];
  const at = Math.max(0, ids.indexOf(view.getState().part));
  const part = ids[(at + by + ids.length) % ids.length];
  view.setState({ part, joining: part ? "add" : "new", open: "finish" });
}

/** The ways in which a mask is seen, one after the other. */
export function nextMaskStyle({ view }: Workspace): void {
  const styles = [undefined, "veil", "grey", "outline"] as const;
  view.setState(({ mask }) => ({ mask: styles[(styles.indexOf(mask) + 1) % styles.length] }));
}

/** The recipe as it is seen while a part or all of the finish is held back. */
export function recipeWithout(
  recipe: Recipe,
  without: "part" | "finish" | undefined,
  id: string | undefined,
  rest: FinishSettings,
): Recipe {
  if (without === "finish") return { ...recipe, finish: rest };
  if (without !== "part") return recipe;
  const part = partOf(recipe, id);
  return part
    ? withPart(recipe, part.id, { on: false })
    : withFinish(recipe, { whole: rest.whole });
}

/** Adjustments of one group. */
export const ofGroup = (set: Adjustments, group: AdjustmentGroup): Partial<Adjustments> =>
  Object.fromEntries(
    Object.keys(ADJUSTMENT_GROUPS[group].fields).map((key) => [key, set[key as keyof Adjustments]]),
  );
