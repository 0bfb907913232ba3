import type { Rectangle } from "../../../../core/raster/largestRectangle";
import { asksForUpright, isStraightened } from "../../../../pipeline/straighten/settings";
import type { Straightening } from "../../../../pipeline/straighten/straightening";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { plainNumber } from "../../../ui/format";

/** What is said of the borders that bending leaves empty. */
const REST_SAID: Record<string, string> = {
  extend: ", the rest filled",
  keep: ", the rest left empty",
};

const degrees = (value: number): string => `${plainNumber(Math.abs(value), 1)}°`;

/** How a picture was set upright, in words; nothing where it is not turned. */
export function turnedSentence(
  edges: Recipe["edges"],
  straightening: Straightening | undefined,
): string {
  const { guides } = edges;
  if (!isStraightened(edges)) return "";
  if (guides.length) return `Upright by ${guides.length} ${guides.length === 1 ? "line" : "lines"}`;
  const byHand = edges.roll || edges.pitch || edges.yaw ? "Turned by hand" : "";
  if (!asksForUpright(edges)) return byHand;
  const upright = straightening?.upright;
  if (!upright) return straightening ? "Not upright: too few edges say what is vertical" : "";
  const { pitch, roll, pitchSigma, rollSigma } = upright;
  const tilted = `tilted ${pitch < 0 ? "down" : "up"} ${degrees(pitch)}`;
  const known = `known to ${degrees(Math.max(pitchSigma, rollSigma))}`;
  const further = byHand ? "; turned by hand" : "";
  return `By ${upright.edges} edges it was ${tilted} and rolled ${degrees(roll)}, ${known}${further}`;
}

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
  const turned = isStraightened(edges) ? "Upright; " : "";
  return `${turned}${turned ? first.charAt(0).toLowerCase() + first.slice(1) : first}${to}${by}${mode === "crop" || mode === "rectangle" || by || to ? size : ""}${mode === "crop" || rest === "crop" ? short : ""}`;
}
