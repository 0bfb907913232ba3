import type { ListedLook } from "../store/looks";
import { CELLS, type TriedLook } from "./LookGrid";

/** The picture without any look, among those that are tried. */
export const AS_IT_IS = "as it is";

/** Every look with the amount it is tried with, the picture as it is first. */
export const triedLooks = (
  looks: readonly ListedLook[],
  amounts: Readonly<Record<string, number>>,
): TriedLook[] => [
  { id: AS_IT_IS, name: "As it is", amount: 1 },
  ...looks.map(({ id, look }) => ({ id, name: look.name, look, amount: amounts[id] ?? 1 })),
];

/** Those that are seen at once: the page of the chosen one. */
export function pageOf(tried: readonly TriedLook[], chosen: string): TriedLook[] {
  const at = Math.max(
    0,
    tried.findIndex(({ id }) => id === chosen),
  );
  const first = Math.floor(at / CELLS) * CELLS;
  return tried.slice(first, first + CELLS);
}
