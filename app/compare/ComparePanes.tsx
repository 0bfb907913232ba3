import { useEffect, useMemo, useRef, useState } from "react";
import { useStore } from "zustand";
import {
  settle,
  toPicture,
  visible,
  zoomAt,
  zoomOf,
  type Size,
  type Viewport,
} from "../workspace/picture/viewport";
import { differenceOf, MIDDLE, type CompareMode, type Rendered } from "./paint";
import { sideView } from "./sideView";
import type { Side } from "./useSides";

interface Props {
  sides: readonly Side[];
  mode: CompareMode;
  /** changes a second, where sides are shown in turn */
  rate: number;
  gain: number;
  viewport: Viewport;
  onViewport: (viewport: Viewport) => void;
  /** a place was pointed at, shares of the picture */
  onPick: (place: readonly [number, number]) => void;
  /** the pointer is at a place, shares of the picture */
  onHover: (place: readonly [number, number]) => void;
  chosen: number;
  onChoose: (side: number) => void;
}

const NOTHING: Size = { width: 1, height: 1 };
const SPLIT_HIT_PX = 14;
const WHEEL_STEP = 1.25;
const CLICK_PX = 4;

/** Columns and rows of so many panes. */
const gridOf = (count: number): [columns: number, rows: number] =>
  count > 2 ? [2, Math.ceil(count / 2)] : [count, 1];

/** The sides, with zoom and place locked together. */
export function ComparePanes(props: Props) {
  const { sides, mode } = props;
  const box = useRef<HTMLDivElement>(null);
  const size = useBoxSize(box);
  const [columns, rows] = mode === "beside" ? gridOf(sides.length) : [1, 1];
  const pane = useMemo(
    () => ({ width: Math.floor(size.width / columns), height: Math.floor(size.height / rows) }),
    [size, columns, rows],
  );
  const first = sides[0]?.session.state.size ?? NOTHING;
  const { zoom, cx, cy } = settle(props.viewport, first, pane);
  const viewport = useMemo(() => ({ zoom, cx, cy }), [zoom, cx, cy]);
  const pictures = useRendered(sides, viewport, pane);
  const count = mode === "beside" ? sides.length : 1;
  return (
    <div
      ref={box}
      className="grid min-h-0 min-w-0 bg-ground"
      style={{
        gridTemplateColumns: `repeat(${columns}, 1fr)`,
        gridTemplateRows: `repeat(${rows}, 1fr)`,
      }}
    >
      {Array.from({ length: count }, (_, i) => (
        <Pane key={i} {...props} viewport={viewport} index={i} pane={pane} pictures={pictures} />
      ))}
    </div>
  );
}

/** The size of an element, kept as it changes. */
function useBoxSize(box: React.RefObject<HTMLElement | null>): Size {
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect;
      setSize({ width: Math.floor(width), height: Math.floor(height) });
    });
    observer.observe(box.current!);
    return () => observer.disconnect();
  }, [box]);
  return size;
}

/** What of a side is seen: sides of other sizes are seen as large as the first. */
function seenOf(
  side: Side,
  first: Size,
  viewport: Viewport,
  pane: Size,
): Promise<Rendered | undefined> {
  const { size } = side.session.state;
  const by = size.width / first.width;
  const region = visible(viewport, first, pane);
  const own = {
    x: Math.floor(region.x * by),
    y: Math.floor(region.y * by),
    width: Math.ceil(region.width * by),
    height: Math.ceil(region.height * by),
  };
  return sideView(side, own, zoomOf(viewport, first, pane) / by);
}

/** What each side shows of the place that is seen; the last that was asked for counts. */
function useRendered(
  sides: readonly Side[],
  viewport: Viewport,
  pane: Size,
): readonly (Rendered | undefined)[] {
  const [pictures, setPictures] = useState<readonly (Rendered | undefined)[]>([]);
  const ready = useReadiness(sides);
  const { width, height } = pane;
  useEffect(() => {
    if (!sides.length || !width) return;
    let isCurrent = true;
    void (async () => {
      const first = sides[0]!.session.state.size;
      const rendered = await Promise.all(
        sides.map((side) => seenOf(side, first, viewport, { width, height })),
      );
      if (isCurrent) setPictures(rendered);
    })();
    return () => {
      isCurrent = false;
    };
  }, [sides, viewport, width, height, ready]);
  return pictures;
}

/** Changes when a side has something else to show. */
function useReadiness(sides: readonly Side[]): string {
  const [, setCount] = useState(0);
  useEffect(() => {
    const stops = sides.map(({ session }) => session.store.subscribe(() => setCount((n) => n + 1)));
    return () => stops.forEach((stop) => stop());
  }, [sides]);
  return sides
    .map(({ session: { state } }) =>
      [state.phase, state.fullReady, state.preview?.width, state.settled].join(),
    )
    .join(" ");
}

interface PaneProps extends Props {
  index: number;
  pane: Size;
  pictures: readonly (Rendered | undefined)[];
}

function Pane(props: PaneProps) {
  const { sides, mode, index, pane, pictures, rate, gain, viewport, chosen, onChoose } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [split, setSplit] = useState(MIDDLE);
  const turn = useTurn(mode === "flicker" ? sides.length : 0, rate);
  const shown = mode === "flicker" ? turn : index;
  useEffect(() => {
    const c = canvas.current!;
    c.width = pane.width;
    c.height = pane.height;
    const g = c.getContext("2d")!;
    const [a, b] = pictures;
    if (mode === "difference" && a && b) drawCentred(g, differenceOf(a, b, gain), pane);
    else if (mode === "wipe" && a && b) drawWipe(g, a, b, split, pane);
    else if (pictures[shown]) drawCentred(g, imageOf(pictures[shown]), pane);
    c.dataset["drawn"] = String(pictures.filter(Boolean).length);
  }, [pane, pictures, mode, gain, split, shown]);
  const pointers = usePanePointers(props, mode === "wipe" ? { split, setSplit } : undefined);
  const named = mode === "wipe" || mode === "difference" ? sides.slice(0, 2) : [sides[shown]];
  const zoom = sides[0] ? zoomOf(viewport, sides[0].session.state.size, pane) : 1;
  return (
    <div className="relative min-h-0 min-w-0 overflow-hidden border-r border-line last:border-r-0">
      <canvas
        ref={canvas}
        data-testid="compared"
        className="absolute inset-0 touch-none"
        {...pointers}
      />
      <p className="pointer-events-none absolute inset-x-0 bottom-0 flex gap-3 px-2 py-1">
        {named.map((side, i) => {
          if (!side) return null;
          const place = mode === "beside" || mode === "flicker" ? shown : i;
          return (
            <button
              key={i}
              type="button"
              aria-pressed={place === chosen}
              className={`pointer-events-auto truncate rounded border-l-[3px] bg-panel/85 px-2 py-0.5 ${place === chosen ? "border-accent" : "border-transparent"}`}
              onClick={() => onChoose(place)}
            >
              {place + 1} {side.name}
            </button>
          );
        })}
        <span className="grow" />
        {index === 0 && (
          <span className="rounded bg-panel/85 px-2 py-0.5 tabular-nums text-quiet">
            {Math.round(zoom * 100)}
            {"\u00a0"}%
          </span>
        )}
      </p>
      {sides[shown] && <PaneState side={sides[shown]} />}
    </div>
  );
}

/** What keeps a side from being seen. */
function PaneState({ side }: { side: Side }) {
  const { phase, doing, error } = useStore(side.session.store);
  if (phase === "ready" || side.frame !== undefined) return null;
  return (
    <p
      role={error ? "alert" : "status"}
      className="absolute inset-x-0 top-1/2 mx-auto w-fit rounded bg-panel/90 px-3 py-1"
    >
      {error ? error.sentence : `${side.name}: ${doing || "Opening"}`}
    </p>
  );
}

/** The side whose turn it is, where they are shown one after the other. */
function useTurn(count: number, rate: number): number {
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    if (!count) return;
    const timer = setInterval(() => setTurn((now) => (now + 1) % count), 1000 / rate);
    return () => clearInterval(timer);
  }, [count, rate]);
  return count ? turn % count : 0;
}

/** Drags move all sides, the wheel zooms them, a click picks a place. */
function usePanePointers(
  { sides, viewport, pane, onViewport, onPick, onHover }: PaneProps,
  wipe: { split: number; setSplit: (split: number) => void } | undefined,
) {
  const drag = useRef<{
    x: number;
    y: number;
    from: Viewport;
    what: "split" | "move";
    moved: boolean;
  }>(undefined);
  const size = sides[0]?.session.state.size ?? NOTHING;
  const placeOf = (e: React.PointerEvent | React.WheelEvent): { x: number; y: number } => {
    const { left, top } = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - left, y: e.clientY - top };
  };
  const onPointerMove = (e: React.PointerEvent): void => {
    const now = drag.current;
    const at = placeOf(e);
    if (!now) {
      const { x, y } = toPicture(viewport, size, pane, at.x, at.y);
      onHover([x / size.width, y / size.height]);
      return;
    }
    now.moved ||= Math.hypot(at.x - now.x, at.y - now.y) > CLICK_PX;
    if (now.what === "split") wipe?.setSplit(Math.min(1, Math.max(0, at.x / pane.width)));
    else if (now.moved) {
      const zoom = zoomOf(now.from, size, pane);
      const moved = {
        zoom,
        cx: now.from.cx - (at.x - now.x) / zoom,
        cy: now.from.cy - (at.y - now.y) / zoom,
      };
      if (now.from.zoom !== "fit") onViewport(settle(moved, size, pane));
    }
  };
  return {
    onPointerDown: (e: React.PointerEvent): void => {
      e.currentTarget.setPointerCapture(e.pointerId);
      const at = placeOf(e);
      const isSplit = wipe && Math.abs(at.x - wipe.split * pane.width) < SPLIT_HIT_PX;
      drag.current = { ...at, from: viewport, what: isSplit ? "split" : "move", moved: false };
    },
    onPointerMove,
    onPointerUp: (e: React.PointerEvent): void => {
      const was = drag.current;
      drag.current = undefined;
      if (!was || was.moved || was.what === "split") return;
      const { x, y } = placeOf(e);
      const place = toPicture(viewport, size, pane, x, y);
      onPick([place.x / size.width, place.y / size.height]);
    },
    onPointerCancel: (): void => {
      drag.current = undefined;
    },
    onDoubleClick: (e: React.MouseEvent): void => {
      const { left, top } = e.currentTarget.getBoundingClientRect();
      const at = { x: e.clientX - left, y: e.clientY - top };
      onViewport(
        viewport.zoom === "fit"
          ? zoomAt(viewport, size, pane, at, 1)
          : settle({ zoom: "fit", cx: 0, cy: 0 }, size, pane),
      );
    },
    onWheel: (e: React.WheelEvent): void => {
      const zoom = zoomOf(viewport, size, pane) * (e.deltaY < 0 ? WHEEL_STEP : 1 / WHEEL_STEP);
      onViewport(zoomAt(viewport, size, pane, placeOf(e), zoom));
    },
  };
}

const imageOf = ({ pixels, width, height }: Rendered): ImageData =>
  new ImageData(pixels as Uint8ClampedArray<ArrayBuffer>, width, height);

function drawCentred(g: CanvasRenderingContext2D, image: ImageData, pane: Size): void {
  g.putImageData(
    image,
    Math.round((pane.width - image.width) / 2),
    Math.round((pane.height - image.height) / 2),
  );
}

/** One side left of a line, the other right of it. */
function drawWipe(
  g: CanvasRenderingContext2D,
  a: Rendered,
  b: Rendered,
  split: number,
  pane: Size,
): void {
  const x = Math.round(split * pane.width);
  drawCentred(g, imageOf(b), pane);
  const left = Math.round((pane.width - a.width) / 2);
  const top = Math.round((pane.height - a.height) / 2);
  const width = Math.min(a.width, Math.max(0, x - left));
  if (width > 0) g.putImageData(imageOf(a), left, top, 0, 0, width, a.height);
  g.fillStyle = "#f2f2f2";
  g.fillRect(x - 1, 0, 2, pane.height);
  g.fillRect(x - 4, pane.height / 2 - 16, 8, 32);
}
