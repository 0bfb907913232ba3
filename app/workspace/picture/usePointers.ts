import { useRef, type PointerEvent, type RefObject } from "react";
import { clamp } from "../../../core/math/clamp";
import { readPointer } from "../actions/readPointer";
import type { Workspace } from "../state/workspace";
import type { PointerPlace, Tool } from "../tools/tool";
import { settle, toPicture, zoomAt, zoomOf, type Viewport } from "./viewport";

interface Point {
  x: number;
  y: number;
}

/** What a drag does. */
type Drag =
  | { what: "tool" }
  | { what: "split" }
  | { what: "move"; from: Point; viewport: Viewport }
  /** two fingers: where their middle was and how far they were apart */
  | { what: "pinch"; middle: Point; apart: number; viewport: Viewport; zoom: number };

interface Options {
  workspace: Workspace;
  tool: Tool | undefined;
  canvas: RefObject<HTMLCanvasElement | null>;
  /** the picture is moved whatever is in hand */
  moves: RefObject<boolean>;
  /** where the split of a wipe lies across the box, 0 to 1; undefined without one */
  split: number | undefined;
  onSplit: (at: number) => void;
  /** marks of the tool have changed */
  paint: () => void;
}

/** The split is taken within so many px of it. */
const NEAR_SPLIT_PX = 14;

const middleOf = ([a, b]: readonly Point[]): Point => ({
  x: (a!.x + b!.x) / 2,
  y: (a!.y + b!.y) / 2,
});
const apartOf = ([a, b]: readonly Point[]): number => Math.hypot(a!.x - b!.x, a!.y - b!.y);

/** The viewport after two fingers moved: what lay between them stays between them. */
function pinched(
  { view, session }: Workspace,
  drag: Extract<Drag, { what: "pinch" }>,
  points: readonly Point[],
): Viewport {
  const { box } = view.getState();
  const { size } = session.state;
  const zoom = drag.zoom * (apartOf(points) / Math.max(1, drag.apart));
  const zoomed = zoomAt(drag.viewport, size, box, drag.middle, zoom);
  if (zoomed.zoom === "fit") return zoomed;
  const to = middleOf(points);
  const { cx, cy } = zoomed;
  return settle(
    {
      zoom: zoomed.zoom,
      cx: cx - (to.x - drag.middle.x) / zoomed.zoom,
      cy: cy - (to.y - drag.middle.y) / zoomed.zoom,
    },
    size,
    box,
  );
}

/**
 * The pointers over the picture: they go to the tool in hand, or else move the picture; two fingers
 * move and zoom it in any case.
 */
export function usePointers({ workspace, tool, canvas, moves, split, onSplit, paint }: Options) {
  const drag = useRef<Drag>(undefined);
  const down = useRef(new Map<number, Point>());
  const { view, session } = workspace;

  const pointOf = (e: PointerEvent): Point => {
    const r = canvas.current!.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const placeOf = (point: Point): PointerPlace => {
    const { viewport, box } = view.getState();
    const { size } = session.state;
    return {
      ...toPicture(viewport, size, box, point.x, point.y),
      zoom: zoomOf(viewport, size, box),
    };
  };
  const begin = (point: Point): Drag => {
    const { viewport, box } = view.getState();
    if (tool?.pointer && !moves.current) {
      tool.pointer.down(placeOf(point));
      return { what: "tool" };
    }
    const onTheSplit = split !== undefined && Math.abs(point.x - split * box.width) < NEAR_SPLIT_PX;
    return onTheSplit && !moves.current
      ? { what: "split" }
      : { what: "move", from: point, viewport };
  };
  const follow = (to: Point): void => {
    const now = drag.current;
    const { box } = view.getState();
    const { size } = session.state;
    switch (now?.what) {
      case "tool":
        tool?.pointer?.move(placeOf(to));
        paint();
        return;
      case "split":
        onSplit(clamp(to.x / box.width, 0, 1));
        return;
      case "pinch":
        view.setState({ viewport: pinched(workspace, now, [...down.current.values()]) });
        return;
      case "move": {
        const { zoom, cx, cy } = now.viewport;
        if (zoom === "fit") return;
        const moved = {
          zoom,
          cx: cx - (to.x - now.from.x) / zoom,
          cy: cy - (to.y - now.from.y) / zoom,
        };
        view.setState({ viewport: settle(moved, size, box) });
      }
    }
  };
  const breakOff = (): void => {
    if (drag.current?.what === "tool") tool?.pointer?.cancel();
    drag.current = undefined;
    paint();
  };

  return {
    onPointerDown: (e: PointerEvent): void => {
      const point = pointOf(e);
      e.currentTarget.setPointerCapture(e.pointerId);
      // keys are the picture's from now on, and not those of a control that was used before
      (document.activeElement as HTMLElement | null)?.blur();
      down.current.set(e.pointerId, point);
      const fingers = [...down.current.values()];
      if (fingers.length === 1) drag.current = begin(point);
      else if (fingers.length === 2) {
        breakOff();
        const { viewport, box } = view.getState();
        const zoom = zoomOf(viewport, session.state.size, box);
        drag.current = {
          what: "pinch",
          middle: middleOf(fingers),
          apart: apartOf(fingers),
          viewport,
          zoom,
        };
      }
      paint();
    },
    onPointerMove: (e: PointerEvent): void => {
      const point = pointOf(e);
      const at = placeOf(point);
      const { width, height } = session.state.size;
      const isInside = at.x >= 0 && at.y >= 0 && at.x < width && at.y < height;
      readPointer(workspace, isInside ? at : undefined);
      if (down.current.has(e.pointerId)) down.current.set(e.pointerId, point);
      follow(point);
    },
    onPointerUp: (e: PointerEvent): void => {
      down.current.delete(e.pointerId);
      if (drag.current?.what === "tool") tool?.pointer?.up(placeOf(pointOf(e)));
      drag.current = undefined;
      paint();
    },
    onPointerCancel: (e: PointerEvent): void => {
      down.current.delete(e.pointerId);
      breakOff();
    },
    onPointerLeave: (): void => readPointer(workspace, undefined),
  };
}
