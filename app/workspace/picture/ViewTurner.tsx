import { useEffect, useMemo, useRef, useState } from "react";
import type { PanoramaRecipe } from "../../../pipeline/recipe/recipe";
import { rotated, type Camera } from "../../../core/panorama/camera";
import { canvasFor, extentOf } from "../../../core/panorama/canvas/projection";
import { draggedTo, rolledTo, worldTurn } from "../../../core/panorama/level/straighten";
import { viewOf, type Layout } from "../../../pipeline/panorama/layout";
import { wantedCanvas } from "../../../pipeline/panorama/composePanorama";
import { plainNumber } from "../../ui/format";
import type { StackSession } from "../../work/session";
import type { Edit } from "../state/edit";
import { projectedOn, type Projected } from "./projected";
import { betweenTurns, directionIn, fitted, meshOver, outlineIn, type Seen } from "./reproject";
import type { Size } from "./viewport";
import { clamp } from "../../../core/math/clamp";

interface Props {
  session: StackSession;
  recipe: PanoramaRecipe;
  layout: Layout;
  /** what dragging does; without it the view is only shown until the panorama is joined anew */
  mode: "turn" | "roll" | undefined;
  /** a change of the view is under the hand, or being joined */
  waits: boolean;
  edit: Edit;
}
type Side = 0 | 1 | 2 | 3;
interface Drag {
  seen: Seen;
  base: PanoramaRecipe;
  x: number;
  y: number;
  side?: Side | undefined;
  now?: PanoramaRecipe;
}

/**
 * Degrees between the directions that are asked what is covered; the longer side of the picture
 * that is drawn, px; how near a handle is taken, px; how long the preview outlasts the joining, ms.
 */
const STEP = 4;
const DRAWN_PX = 1600;
const NEAR = 14;
const LINGER_MS = 350;
const SIDES = ["left", "right", "upper", "lower"] as const;

/** Whether a panorama was joined with the view that is asked for. */
const sameView = (wanted: PanoramaRecipe["panorama"], layout: Layout): boolean =>
  JSON.stringify(viewOf(wanted)) === JSON.stringify(viewOf(layout.view));

/**
 * How a panorama will look as its view is dragged, rolled, cut or projected otherwise: drawn at
 * once from the picture there is.
 */
export function ViewTurner(p: Props) {
  const due = p.waits && !sameView(p.recipe.panorama, p.layout);
  const [lingers, setLingers] = useState(false);
  // the new picture is asked for when the panorama is joined; until it is there nothing old shows
  // through
  useEffect(() => {
    if (due) {
      setLingers(true);
      return;
    }
    const t = setTimeout(() => setLingers(false), LINGER_MS);
    return () => clearTimeout(t);
  }, [due]);
  return p.mode || due || lingers ? <Turning {...p} /> : null;
}

function Turning({ session, recipe, layout, mode, edit }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const drawing = useRef<Promise<Projected>>(undefined);
  const drag = useRef<Drag>(undefined);
  const [box, setBox] = useState<Size>({ width: 0, height: 0 });
  const [held, setHeld] = useState<Seen>();
  const [picture, setPicture] = useState<{ on: Projected; of: Layout }>();
  const wanted = recipe.panorama;
  const between = useMemo(() => betweenTurns(layout.turned, worldTurn(wanted)), [layout, wanted]);
  const target = useMemo(() => {
    // as long as nothing was changed it is known to the pixel
    if (!layout.canvas.bend && sameView(wanted, layout)) return layout.canvas;
    return canvasFor(
      layout.cameras.filter((c): c is Camera => c !== undefined).map((c) => rotated(c, between)),
      {
        ...wantedCanvas(wanted, recipe.edges),
        projection:
          wanted.projection === "auto" && layout.view.projection === "auto"
            ? layout.canvas.projection
            : wanted.projection,
        step: STEP,
      },
    );
  }, [layout, between, wanted, recipe.edges]);
  const fit = useMemo(() => (box.width ? fitted(target, box) : undefined), [target, box]);
  const seen = held ?? fit;

  useEffect(() => {
    const el = host.current!;
    const watch = new ResizeObserver(() =>
      setBox({ width: el.clientWidth, height: el.clientHeight }),
    );
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    let live = true;
    const { width, height } = layout.canvas;
    void Promise.all([
      (drawing.current ??= projectedOn(canvas.current!)),
      session.view({
        region: { x: 0, y: 0, width, height },
        zoom: Math.min(1, DRAWN_PX / Math.max(width, height)),
        recipe,
        clipped: false,
      }),
    ]).then(
      ([on, view]) => {
        if (!live || !view) return;
        on.show(view, layout.canvas.closed);
        setPicture({ on, of: layout });
      },
      () => undefined,
    ); // without it, or where nothing can be drawn so, the joined picture is waited for
    return () => {
      live = false;
    };
  }, [layout, recipe.tone, recipe.prepare, session]); // eslint-disable-line react-hooks/exhaustive-deps
  useEffect(
    () => () => {
      void drawing.current?.then(
        (on) => on.close(),
        () => undefined,
      );
    },
    [],
  );
  // put away in the middle of a drag, nothing has been changed
  useEffect(() => {
    const d = drag.current;
    if (mode || !d) return;
    drag.current = undefined;
    setHeld(undefined);
    edit.show(d.base);
  }, [mode]); // eslint-disable-line react-hooks/exhaustive-deps
  const shows = picture?.of === layout && seen !== undefined;
  useEffect(() => {
    if (!shows) return;
    const t0 = performance.now();
    picture.on.draw(meshOver(seen, box, layout.canvas, between), box);
    performance.measure("rhizome:turned", { start: t0, end: performance.now() });
  }, [shows, picture, seen, box, layout, between]);

  const outline =
    seen && target.projection === seen.canvas.projection ? outlineIn(seen, target) : undefined;
  const handles = outline
    ? ([
        [outline.x, outline.y + outline.height / 2],
        [outline.x + outline.width, outline.y + outline.height / 2],
        [outline.x + outline.width / 2, outline.y],
        [outline.x + outline.width / 2, outline.y + outline.height],
      ] as const)
    : [];
  const sides = extentOf(target);
  const across = sides[0] + sides[1];
  const upright = sides[2] + sides[3];
  const at = (e: React.PointerEvent): { x: number; y: number } => {
    const r = host.current!.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const view = (
    base: PanoramaRecipe,
    part: Partial<PanoramaRecipe["panorama"]>,
  ): PanoramaRecipe => ({
    ...base,
    panorama: { ...base.panorama, ...part },
  });
  /** The recipe with what the drag has led to so far. */
  const led = (
    { seen: s, base, x, y, side }: Drag,
    to: { x: number; y: number },
  ): PanoramaRecipe | undefined => {
    const middle = { x: s.x + s.canvas.centreX * s.scale, y: s.y + s.canvas.centreY * s.scale };
    if (side !== undefined) {
      const beside = side < 2;
      let past: boolean;
      if (beside) {
        if (side === 0) past = to.x > middle.x;
        else past = to.x < middle.x;
      } else if (side === 2) past = to.y > middle.y;
      else past = to.y < middle.y;
      const d = directionIn(s, beside ? to.x : middle.x, beside ? middle.y : to.y);
      let degrees: number;
      if (past) degrees = 0;
      else if (!d) degrees = 180;
      else
        degrees =
          (Math.abs(beside ? Math.atan2(d[0], d[2]) : Math.atan2(d[1], Math.hypot(d[0], d[2]))) *
            180) /
          Math.PI;
      const extent = (
        base.panorama.extent === "auto" ? extentOf(s.canvas) : [...base.panorama.extent]
      ) as [number, number, number, number];
      extent[side] = Math.round(clamp(degrees, 0.5, beside ? 180 : 90) * 10) / 10;
      return view(base, { extent });
    }
    if (mode === "roll") {
      const { roll } = rolledTo(
        base.panorama,
        [x - middle.x, y - middle.y],
        [to.x - middle.x, to.y - middle.y],
      );
      return view(base, { roll });
    }
    const from = directionIn(s, x, y);
    const there = directionIn(s, to.x, to.y);
    if (!from || !there) return undefined;
    const { yaw, pitch, roll } = draggedTo(base.panorama, from, there);
    return view(base, { yaw, pitch, roll });
  };
  const sideAt = (q: { x: number; y: number }): Side | undefined => {
    const k = handles.findIndex(([x, y]) => Math.hypot(q.x - x, q.y - y) < NEAR);
    return k < 0 ? undefined : (k as Side);
  };
  return (
    <div
      ref={host}
      aria-label="The view as it will be"
      className={`absolute inset-0 touch-none select-none overflow-hidden ${shows ? "bg-well" : ""} ${mode ? "cursor-grab" : "pointer-events-none"}`}
      data-shows={shows || undefined}
      onPointerDown={(e) => {
        if (!seen) return;
        const q = at(e);
        drag.current = { seen, base: recipe, ...q, side: sideAt(q) };
        setHeld(seen);
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        const d = drag.current;
        const next = d && led(d, at(e));
        if (d && next) {
          d.now = next;
          edit.show(next);
        }
      }}
      onPointerUp={() => {
        const d = drag.current;
        drag.current = undefined;
        setHeld(undefined);
        if (!d?.now) return;
        const turned = mode === "roll" ? "Roll the view" : "Drag the view";
        edit.keep(d.now, d.side !== undefined ? `Move the ${SIDES[d.side]} border` : turned);
      }}
      onPointerCancel={() => {
        const d = drag.current;
        drag.current = undefined;
        setHeld(undefined);
        if (d) edit.show(d.base);
      }}
    >
      <canvas ref={canvas} className="absolute inset-0 size-full" />
      {outline && shows && mode && (
        <svg className="absolute inset-0 size-full" aria-hidden>
          <rect {...outline} fill="none" stroke="var(--ink)" strokeWidth={1} />
          <text
            x={outline.x + outline.width / 2}
            y={Math.min(box.height - 8, outline.y + outline.height + 18)}
            textAnchor="middle"
            fontSize={12}
            fill="var(--quiet)"
          >{`${plainNumber(across, 0)}° × ${plainNumber(upright, 0)}°`}</text>
          {handles.map(([x, y], k) => (
            <rect
              key={k}
              x={x - 5}
              y={y - 5}
              width={10}
              height={10}
              fill="var(--ink)"
              stroke="var(--well)"
              className={k < 2 ? "cursor-ew-resize" : "cursor-ns-resize"}
            >
              <title>{`The ${SIDES[k]} border: drag it`}</title>
            </rect>
          ))}
        </svg>
      )}
    </div>
  );
}
