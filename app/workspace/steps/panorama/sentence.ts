import type { Projection } from "../../../../core/panorama/canvas/projection";
import type { Layout } from "../../../../pipeline/panorama/layout";
import { panoramaSettings } from "../../../../pipeline/panorama/settings";
import type { Frame } from "../../../store/records";
import { plainNumber } from "../../../ui/format";

const PROJECTIONS = Object.fromEntries(
  panoramaSettings.fields.projection.options.map(({ value, text }) => [value, text]),
) as Record<Projection, string>;

const LEVELLED_BY = {
  camera: "how the camera was held",
  verticals: "verticals",
  horizon: "the horizon",
} as const;
/** A level is not said to be surer than so many degrees. */
const SUREST = 0.05;

const nameOf = (frames: readonly Frame[], i: number): string => frames[i]?.info.name ?? "";

/** The frames that have a place, or those that have none. */
function placedText({ leftOut, duplicates }: Layout, frames: readonly Frame[]): string {
  if (!leftOut.length) return `${frames.length - duplicates.length} frames placed, `;
  const names = leftOut.map((i) => nameOf(frames, i)).join(", ");
  return `${names} left out: no overlap found; `;
}

function duplicatesText({ duplicates }: Layout, frames: readonly Frame[]): string {
  const [first] = duplicates;
  if (!first) return "";
  if (duplicates.length > 1) return `${duplicates.length} left out that show the same as others; `;
  return `${nameOf(frames, first.frame)} left out: it shows the same as ${nameOf(frames, first.of)}; `;
}

/** How many frames were taken from beside the others. */
function besideText({ flat, cameras }: Layout): string {
  if (flat) return "on one plane, ";
  const count = cameras.filter((camera) => camera?.offset).length;
  return count ? `${count} of them from beside, ` : "";
}

/**
 * What set a panorama upright, and how sure that is; nothing of it where guides or a manual turn
 * did.
 */
function levelText({ levelled, view }: Layout): string {
  const isManual = view.guides.some((guide) => guide.kind !== "straight");
  if (!levelled || isManual || view.roll || view.pitch) return "";
  const { by, degrees } = levelled;
  const sure = plainNumber(Math.max(SUREST, degrees), degrees < 0.1 ? 2 : 1);
  return `level by ${LEVELLED_BY[by]}, \u00b1${sure}\u00b0, `;
}

/** Where a panorama's frames were placed. @param frames  those that take part */
export function panoramaSentence(layout: Layout, frames: readonly Frame[]): string {
  return [
    placedText(layout, frames),
    duplicatesText(layout, frames),
    besideText(layout),
    `${PROJECTIONS[layout.canvas.projection].toLowerCase()}, `,
    levelText(layout),
    `ties ${plainNumber(Math.max(...layout.rmsPx), 2)} px`,
  ].join("");
}
