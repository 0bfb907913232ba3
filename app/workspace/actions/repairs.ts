import type { RepairKind } from "../../../core/retouch/repair";
import type { KeptRepair } from "../../../pipeline/retouch/repairSchema";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { Workspace } from "../state/workspace";

/** What a repair does, as it is called. */
export const REPAIR_NAMES: Record<RepairKind, string> = {
  heal: "Heal",
  clone: "Clone",
  fill: "Fill",
};

const withRepairs = (recipe: Recipe, repairs: KeptRepair[]): Recipe => ({
  ...recipe,
  retouch: { ...recipe.retouch, repairs },
});

/** A recipe in which a repair is another. */
export const withRepair = (recipe: Recipe, index: number, more: Partial<KeptRepair>): Recipe =>
  withRepairs(
    recipe,
    recipe.retouch.repairs.map((repair, i) => (i === index ? { ...repair, ...more } : repair)),
  );

/** Repairs a place as the kind in hand does, and shows the repair. */
export function addRepair(
  workspace: Workspace,
  shape: KeptRepair["shape"],
  kind: RepairKind = workspace.view.getState().repairKind,
): void {
  const recipe = workspace.recipe();
  const { repairs } = recipe.retouch;
  const repair: KeptRepair = { kind, shape, softness: 0.3, on: true };
  workspace.edit.keep(withRepairs(recipe, [...repairs, repair]), REPAIR_NAMES[kind]);
  workspace.view.setState({ repair: repairs.length });
}

/** Deletes a repair; the one before it is shown then. */
export function deleteRepair({ recipe, edit, view }: Workspace, index: number): void {
  const { repairs } = recipe().retouch;
  if (!repairs[index]) return;
  edit.keep(
    withRepairs(
      recipe(),
      repairs.filter((_, i) => i !== index),
    ),
    "Delete a repair",
  );
  view.setState({ repair: repairs.length > 1 ? Math.max(0, index - 1) : undefined });
}

/** Moves a repair among the others: what comes later sees what was put right before. */
export function moveRepair({ recipe, edit, view }: Workspace, index: number, by: -1 | 1): void {
  const repairs = [...recipe().retouch.repairs];
  const to = index + by;
  if (!repairs[index] || !repairs[to]) return;
  [repairs[index], repairs[to]] = [repairs[to], repairs[index]];
  edit.keep(withRepairs(recipe(), repairs), "Order of repairs");
  view.setState({ repair: to });
}

/** The middle of a repair, in shares of the picture. */
export function middleOf(shape: KeptRepair["shape"]): [number, number] {
  if (shape.type === "spot") return [shape.x, shape.y];
  const xs = shape.points.map(([x]) => x);
  const ys = shape.points.map(([, y]) => y);
  return [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2];
}

/** A shape that lies elsewhere, by shares of the picture. */
export function movedShape(
  shape: KeptRepair["shape"],
  dx: number,
  dy: number,
): KeptRepair["shape"] {
  if (shape.type === "spot") return { ...shape, x: shape.x + dx, y: shape.y + dy };
  return { ...shape, points: shape.points.map(([x, y]): [number, number] => [x + dx, y + dy]) };
}

/** Where a repair takes from: as it was chosen, or as it was found. */
export const sourceShown = (
  { recipe, session }: Workspace,
  index: number,
): { dx: number; dy: number } | undefined =>
  recipe().retouch.repairs[index]?.source ?? session.state.repairSources?.[index];

/** Shows a repair, in the middle of the picture at 100 % where it is chosen from the list. */
export function showRepair({ view, recipe, session }: Workspace, index: number): void {
  const repair = recipe().retouch.repairs[index];
  if (!repair) return;
  const { width, height } = session.state.size;
  const [x, y] = middleOf(repair.shape);
  view.setState(({ viewport }) => ({
    repair: index,
    viewport: viewport.zoom === "fit" ? viewport : { ...viewport, cx: x * width, cy: y * height },
  }));
}
