import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { counted } from "../../../ui/format";

/** What is put right, in words. */
export function repairsSaid({ repairs }: Recipe["retouch"]): string {
  const on = repairs.filter((repair) => repair.on);
  if (!on.length) return repairs.length ? "All switched off" : "Nothing to repair";
  const kinds = [
    ["healed", on.filter(({ kind }) => kind === "heal").length],
    ["cloned", on.filter(({ kind }) => kind === "clone").length],
    ["filled", on.filter(({ kind }) => kind === "fill").length],
  ] as const;
  const said = kinds.filter(([, count]) => count > 0);
  if (said.length === 1) return `${counted(said[0]![1], "place")} ${said[0]![0]}`;
  return said.map(([name, count]) => `${count} ${name}`).join(", ");
}
