import type { Drawing, LightDrawing } from "./GhostControls";

export const isLight = (d: Drawing | undefined): d is LightDrawing =>
  d?.startsWith("light ") ?? false;
/** Drags of a panorama's whole view, which leave no stroke. */
export const isTurn = (d: Drawing | undefined): d is "turn" | "roll" =>
  d === "turn" || d === "roll";
/** What the pointer leaves on the screen while it draws. */
export const strokeOf = (d: Exclude<Drawing, "turn" | "roll">): "outline" | "brush" | "line" => {
  if (d === "level" || d === "vertical" || d === "straight" || d === "light gradient")
    return "line";
  if (d === "dust" || d === "light brush") return "brush";
  if (d === "light outline") return "outline";
  return d;
};
