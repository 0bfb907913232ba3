import type { Rectangle } from "../../../../core/raster/largestRectangle";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { plainNumber } from "../../../ui/format";

/** What is said of the borders that bending leaves empty. */
const REST_SAID: Record<string, string> = {
  extend: ", the rest filled",
  keep: ", the rest left empty",
};

/** What the step did, in words. @param empty  how much of what is kept is empty, 0 to 1 */
export function edgesSentence(
  { edges, kind }: Recipe,
  kept: Rectangle | undefined,
  empty: number,
): string {
  const { mode, amount, rest, ratio, part } = edges;
  const size = kept ? `, ${kept.width} × ${kept.height} px` : "";
  const to = ratio === "free" ? "" : `, ${ratio}`;
  const by = part === "auto" ? "" : ", manual";
  const short = empty > 0.0005 ? `; ${plainNumber(empty * 100)} % of it is empty` : "";
  let first: string;
  if (mode === "crop") {
    if (by) first = "Cropped";
    else
      first = `Cropped to ${kind !== "panorama" ? "what all frames cover" : "the largest full rectangle"}`;
  } else if (mode === "extend") first = "Filled after the likes of the picture";
  else if (mode === "rectangle")
    first = `Bent to a rectangle${amount < 1 ? `, ${Math.round(amount * 100)} %` : ""}${REST_SAID[rest] ?? ""}`;
  else if (kind === "bracket") {
    if (by || to) first = "Cropped";
    else first = "The whole reference frame";
  } else first = "Kept as they are";
  return `${first}${to}${by}${mode === "crop" || mode === "rectangle" || by || to ? size : ""}${mode === "crop" || rest === "crop" ? short : ""}`;
}
