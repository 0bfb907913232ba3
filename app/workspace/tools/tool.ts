import type { ComponentType } from "react";
import type { Marks } from "../picture/paintMarks";

/** Everything that one can have in hand over the picture. */
export type ToolName =
  | "outline"
  | "brush"
  | "level"
  | "vertical"
  | "straight"
  | "facade"
  | "turn"
  | "roll"
  | "dust"
  | "light outline"
  | "light brush"
  | "light gradient"
  | "pick"
  | "crop"
  | "repair brush"
  | "repair outline"
  | "part outline"
  | "part brush"
  | "part gradient"
  | "part ellipse"
  | "part tones"
  | "part colours"
  | "part sample"
  | "vignette"
  | "hue";

/** Where the pointer is: px of the full-size picture, and screen px that one of them takes. */
export interface PointerPlace {
  x: number;
  y: number;
  zoom: number;
}

/**
 * What is in hand over the picture. The viewer knows tools only through this: it hands them the
 * pointer, draws their marks above the picture, and shows their elements over it.
 */
export interface Tool {
  /** it is taken up */
  enter?(): void;
  /** the pointer, where the tool takes it; without this the picture is moved by it */
  pointer?: {
    down(at: PointerPlace): void;
    move(at: PointerPlace): void;
    up(at: PointerPlace): void;
    /** the drag was broken off: nothing comes of it */
    cancel(): void;
  };
  /** keys while it is in hand, by their names in `useKeys` */
  keys?: Record<string, (event: KeyboardEvent) => void>;
  /** what it draws above the picture */
  draw?(): Partial<Marks>;
  /** elements over the picture */
  Overlay?: ComponentType;
  /** it is put away: what was begun and not ended is dropped */
  leave?(): void;
}
