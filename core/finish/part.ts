import type { SetAdjustments } from "./adjustments";

type Point = readonly [number, number];

/** How a shape of a part joins those before it. */
export type Joining = "add" | "subtract" | "intersect";

/**
 * What a sample was taken of, so that what is like it is found in any picture: light in EV against
 * the scene's middle, colour as Oklab's a and b at equal light, texture in EV.
 */
export interface Likeness {
  light: number;
  a: number;
  b: number;
  texture: number;
}

/** Places are shares of the picture's width and height, lengths shares of its width. */
export type PartShape =
  | { type: "outline"; points: readonly Point[] }
  | {
      type: "brush";
      points: readonly Point[];
      radius: number;
      /** share of the radius over which it fades, and how much one stroke covers */
      softness: number;
      flow: number;
      /** it stays on the side of an edge where it began */
      edgeAware: boolean;
    }
  | { type: "gradient"; from: Point; to: Point }
  | { type: "ellipse"; centre: Point; radii: Point; angle: number; feather: number }
  /** EV against the scene's middle, and EV over which either end fades */
  | { type: "tones"; from: number; to: number; fade: number }
  /** degrees of hue, and the least chroma in Oklab at equal light */
  | { type: "colours"; hue: number; reach: number; least: number }
  /** what is like a place, so many times stricter, within `reach` of it */
  | { type: "sample"; at: Point; like: Likeness; reach: number; tolerance: number }
  | { type: "sky" };

/** A shape with what it does to the mask so far. */
export type JoinedShape = PartShape & { joining: Joining };

/** An area of the picture with adjustments of its own: kept as strokes and rules, never as pixels. */
export interface Part {
  id: string;
  name: string;
  on: boolean;
  /** 0 to 1, of the whole effect */
  amount: number;
  inverted: boolean;
  /** width of the soft border, share of the picture's width */
  feather: number;
  shapes: readonly JoinedShape[];
  adjustments: SetAdjustments;
}
