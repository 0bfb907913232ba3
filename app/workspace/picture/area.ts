import type { GhostPatch } from "../../../core/bracket/ghostPatches";

/** A part of the picture: what is outlined, or painted over; in shares of it. */
export type Area = Pick<GhostPatch, "shape" | "points" | "radius">;
