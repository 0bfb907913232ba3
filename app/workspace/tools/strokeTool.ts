import { clamp } from "../../../core/math/clamp";
import type { Size } from "../picture/viewport";
import type { PointerPlace, Tool } from "./tool";

/** Points of a stroke, in shares of the picture. */
export type Stroke = [number, number][];

export interface StrokeOptions {
  /** round an area, over it with a brush, or from one end of a straight line to the other */
  shape: "outline" | "brush" | "line";
  /** of the brush, in shares of the picture's width */
  radius?: () => number;
  /** of the picture, px */
  size: () => Size;
  done: (points: Stroke) => void;
}

/** Points of a stroke are so far apart on screen, px, and there are at most so many. */
const APART_PX = 2;
const MOST_POINTS = 4000;

/** A tool that leaves a stroke, and hands it on when the pointer is lifted. */
export function strokeTool({ shape, radius = () => 0, size, done }: StrokeOptions): Tool {
  let points: Stroke | undefined;
  const shareOf = ({ x, y }: PointerPlace): [number, number] => {
    const { width, height } = size();
    return [clamp(x / width, 0, 1), clamp(y / height, 0, 1)];
  };
  const drop = (): void => {
    points = undefined;
  };
  const extend = (at: PointerPlace): void => {
    if (!points) return;
    const share = shareOf(at);
    if (shape === "line") {
      points = [points[0]!, share];
      return;
    }
    const { width, height } = size();
    const [x, y] = points.at(-1)!;
    const apart = Math.hypot((share[0] - x) * width, (share[1] - y) * height) * at.zoom;
    if (apart > APART_PX && points.length < MOST_POINTS) points.push(share);
  };
  /** A brush leaves something where it only touches; an outline has to enclose something. */
  const isWhole = (stroke: Stroke): boolean => {
    if (shape === "brush") return true;
    return stroke.length > (shape === "line" ? 1 : 2);
  };
  return {
    pointer: {
      down: (at) => {
        points = [shareOf(at)];
      },
      move: extend,
      up: () => {
        const stroke = points;
        drop();
        if (stroke && isWhole(stroke)) done(stroke);
      },
      cancel: drop,
    },
    draw: () => (points ? { stroke: { shape, radius: radius(), points } } : {}),
    leave: drop,
  };
}
