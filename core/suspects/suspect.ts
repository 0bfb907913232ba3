import * as v from "valibot";

export const SUSPECT_KINDS = [
  "ghost",
  "halo",
  "double edge",
  "clipped",
  "seam",
  "soft band",
  "moved part",
  "filled",
  "residual",
  "thin overlap",
  "place in doubt",
] as const;

/**
 * A place that deserves a look: a box in full-size px of the result, and how bad it may be from 0
 * to 1.
 */
export const SuspectSchema = v.object({
  kind: v.picklist(SUSPECT_KINDS),
  x: v.number(),
  y: v.number(),
  width: v.number(),
  height: v.number(),
  score: v.number(),
});
export type Suspect = v.InferOutput<typeof SuspectSchema>;

/** Stays the same as long as the place does: what the user accepted is known by it. */
export const suspectKey = ({ kind, x, y, width, height }: Suspect): string =>
  `${kind} ${Math.round((x + width / 2) / 64)} ${Math.round((y + height / 2) / 64)}`;

/** Worst first, and not more than anybody would step through. */
export const ranked = (all: readonly Suspect[], most = 40): Suspect[] =>
  [...all].sort((a, b) => b.score - a.score || a.y - b.y || a.x - b.x).slice(0, most);
