import { inUnit, parsePaper } from "../../pipeline/deliver/paper";
import { plainNumber } from "../ui/format";
import type { Plan } from "./plan";

/** What a laboratory is told of each print: its file, paper, margin and resolution; a line each. */
export function orderSheet(shoot: string, plan: Plan, delivery: string): string {
  const lines = plan.stacks.flatMap(({ cells }) => {
    const cell = cells.get(delivery);
    const sheet = cell && parsePaper(cell.delivery.settings.paper);
    if (!cell?.delivery.on || !sheet || !cell.layout.paper || !cell.layout.printed) return [];
    const sides = ({ width, height }: { width: number; height: number }): string =>
      `${plainNumber(inUnit(width, sheet))} x ${plainNumber(inUnit(height, sheet))} ${sheet.unit}`;
    const { margin, sharpenFor, space, onPaper } = cell.delivery.settings;
    return [
      [
        cell.name,
        `paper ${sides(cell.layout.paper)}`,
        onPaper === "fill" ? "fills the paper" : `picture ${sides(cell.layout.printed)}`,
        `margin ${margin} mm`,
        `${cell.layout.ppi} ppi`,
        ...(sharpenFor === "off" ? [] : [sharpenFor]),
        space,
        "1 copy",
      ].join("\t"),
    ];
  });
  return [
    `${shoot}, ${lines.length} ${lines.length === 1 ? "print" : "prints"}`,
    ...lines,
    "",
  ].join("\n");
}
