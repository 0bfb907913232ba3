import type { Drawing, LightDrawing } from "./GhostControls";

export const isLight = (d: Drawing | undefined): d is LightDrawing => d?.startsWith("light ") ?? false;
/** What the pointer leaves on the screen while it draws. */
export const strokeOf = (d: Drawing): "outline" | "brush" | "line" => (d === "level" || d === "plumb" || d === "turn" || d === "roll" || d === "light gradient" ? "line" : d === "dust" || d === "light brush" ? "brush" : d === "light outline" ? "outline" : d);
