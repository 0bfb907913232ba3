import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import type { MapKind } from "../../core/maps/maps";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { Suspect } from "../../core/suspects/suspect";
import type { StackSession } from "../work/session";
import type { View } from "../work/sessionState";
import type { Area } from "./Candidates";
import { dimOutside, paintMarks } from "./paintMarks";
import { settle, toPicture, visible, zoomAt, zoomOf, type Size, type Viewport } from "./viewport";
import { clamp } from "../../core/math/clamp";

interface Props {
  session: StackSession;
  recipe: Recipe;
  size: Size;
  ready: string;
  clipped: boolean;
  /** the frame shown instead of the merge, or beside it in a wipe */
  frame: number | undefined;
  wipe: boolean;
  picking: boolean;
  viewport: Viewport;
  onViewport: (v: Viewport) => void;
  onPoint: (p: { x: number; y: number } | undefined) => void;
  onPick: (p: { x: number; y: number }) => void;
  onBox: (b: Size) => void;
  standIn: Blob | undefined;
  map: MapKind | undefined;
  /** a line being drawn round a part, or a brush of this radius in shares of the width */
  drawing: { shape: "outline" | "brush" | "line"; radius: number } | undefined;
  onDrawn: (points: [number, number][]) => void;
  /** areas drawn over the picture, in shares of it, and the place looked at, in px */
  areas: readonly Area[];
  place: Suspect | undefined;
  /** lines over the picture, in shares of it */
  lines?: readonly [number, number][][];
  /** the part that will go out, px; what lies outside is dimmed */
  kept?: { x: number; y: number; width: number; height: number } | undefined;
}
type Shown = Omit<View, "pixels"> & { canvas: OffscreenCanvas };

/**
 * The picture. Rendering happens in the workers; here only finished pixels are painted on the canvas.
 */
export function Viewer(p: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [box, setBox] = useState<Size>({ width: 0, height: 0 });
  const [split, setSplit] = useState(0.5);
  const shown = useRef<{ after?: Shown; before?: Shown; map?: Shown; stand?: ImageBitmap }>({});
  const latest = useRef({ ...p, box, split });
  const spent = useRef<{ after?: View["pixels"]; before?: View["pixels"] }>({});
  const asked = useRef({ wanted: 0, at: 0, busy: false });
  const drag = useRef<{ x: number; y: number; cx: number; cy: number; split: boolean } | undefined>(
    undefined,
  );
  const space = useRef(false);
  const stroke = useRef<[number, number][] | undefined>(undefined);

  const paint = useCallback(() => {
    const { box: b, viewport, size, split: at, wipe, frame } = latest.current;
    const c = canvas.current;
    if (!c || !b.width) return;
    if (c.width !== b.width || c.height !== b.height) {
      c.width = b.width;
      c.height = b.height;
    }
    const g = c.getContext("2d", { alpha: true })!;
    g.clearRect(0, 0, b.width, b.height);
    const z = zoomOf(viewport, size, b);
    const ox = b.width / 2 - viewport.cx * z;
    const oy = b.height / 2 - viewport.cy * z;
    g.imageSmoothingEnabled = z < 2;
    const paint = (v: Shown | undefined): void => {
      if (!v) return;
      const x = v.region.x * z + ox;
      const y = v.region.y * z + oy;
      const width = v.region.width * z;
      // made for this size: pixel on pixel
      if (Math.abs(width - v.width) < 1) {
        g.drawImage(v.canvas, Math.round(x), Math.round(y));
        return;
      }
      g.imageSmoothingQuality = width / v.width >= 0.5 ? "low" : "medium";
      g.drawImage(v.canvas, x, y, width, v.region.height * z);
    };
    const { after, before, stand } = shown.current;
    if (!after && stand) g.drawImage(stand, ox, oy, size.width * z, size.height * z);
    if (frame !== undefined && !wipe) {
      paint(before ?? after);
      return;
    }
    paint(after);
    if (latest.current.map) paint(shown.current.map);
    if (wipe && before) {
      const x = at * b.width;
      g.save();
      g.beginPath();
      g.rect(0, 0, x, b.height);
      g.clip();
      paint(before);
      g.restore();
      g.fillStyle = "#f2f2f2";
      g.fillRect(x - 1, 0, 2, b.height);
      g.fillRect(x - 4, b.height / 2 - 16, 8, 32);
    }
    const { areas, place, drawing, kept, lines } = latest.current;
    if (kept) dimOutside(g, kept, size, z, ox, oy);
    paintMarks(g, {
      areas,
      place,
      lines: lines ?? [],
      size,
      zoom: z,
      ox,
      oy,
      ...(drawing && stroke.current ? { stroke: { ...drawing, points: stroke.current } } : {}),
    });
  }, []);

  const request = useCallback(async () => {
    const a = asked.current;
    a.wanted++;
    if (a.busy) return;
    a.busy = true;
    // for tests and tools that wait for the picture
    const { dataset } = canvas.current!;
    dataset["pending"] = "true";
    try {
      while (a.at !== a.wanted) {
        a.at = a.wanted;
        const { session, recipe, size, viewport, box: b, clipped, frame, map } = latest.current;
        if (!b.width) continue;
        const base = {
          region: visible(viewport, size, b),
          zoom: zoomOf(viewport, size, b),
          recipe,
          clipped,
        };
        // into the canvas and the pixels that are there already: nothing is made anew while a
        // slider moves
        const take = async (
          asking: Promise<View | undefined>,
          into: Shown | undefined,
          slot?: "after" | "before",
          alpha = false,
        ): Promise<Shown | undefined> => {
          const v = await asking;
          if (!v) return undefined;
          const { pixels, ...rest } = v;
          const same = into && into.canvas.width === v.width && into.canvas.height === v.height;
          const c = same ? into.canvas : new OffscreenCanvas(v.width, v.height);
          c.getContext("2d", { alpha, willReadFrequently: true })!.putImageData(
            new ImageData(pixels, v.width, v.height),
            0,
            0,
          );
          if (slot) spent.current[slot] = pixels;
          return { ...rest, canvas: c };
        };
        const t0 = performance.now();
        const after = await take(
          session.view({ ...base, into: spent.current.after }),
          shown.current.after,
          "after",
        );
        if (after) {
          shown.current.after = after;
          performance.measure("rhizome:shown", { start: t0, end: performance.now() });
        }
        if (frame === undefined) delete shown.current.before;
        else {
          const before = await take(
            session.view({ ...base, frame, into: spent.current.before }),
            shown.current.before,
            "before",
          );
          if (before) shown.current.before = before;
        }
        if (map) {
          const m = await take(
            session.map(map, base.region, base.zoom),
            shown.current.map,
            undefined,
            true,
          );
          if (m) shown.current.map = m;
        } else delete shown.current.map;
        paint();
        if (canvas.current && after)
          canvas.current.dataset["shown"] = String(
            Number(canvas.current.dataset["shown"] ?? 0) + 1,
          );
      }
    } catch {
      // a view of a session that has been closed meanwhile
    } finally {
      a.busy = false;
      delete dataset["pending"];
    }
  }, [paint]);

  useLayoutEffect(() => {
    latest.current = { ...p, box, split };
    paint();
  });
  useEffect(() => {
    void request();
  }, [request, p.session, p.recipe, p.viewport, p.ready, p.clipped, p.frame, p.wipe, p.map, box]);
  useEffect(() => {
    const el = canvas.current!.parentElement!;
    const watch = new ResizeObserver(() => {
      const b = { width: Math.round(el.clientWidth), height: Math.round(el.clientHeight) };
      setBox(b);
      latest.current.onBox(b);
      latest.current.onViewport(settle(latest.current.viewport, latest.current.size, b));
    });
    watch.observe(el);
    const wheel = (e: WheelEvent): void => {
      e.preventDefault();
      const { viewport, size, box: b, onViewport } = latest.current;
      const r = el.getBoundingClientRect();
      onViewport(
        zoomAt(
          viewport,
          size,
          b,
          e.clientX - r.left,
          e.clientY - r.top,
          zoomOf(viewport, size, b) * Math.exp(-e.deltaY * 0.0022),
        ),
      );
    };
    el.addEventListener("wheel", wheel, { passive: false });
    const key = (e: KeyboardEvent): void => {
      if (e.key === " " && !(e.target as HTMLElement).closest?.("input, button, [role=slider]")) {
        e.preventDefault();
        space.current = e.type === "keydown";
      }
    };
    window.addEventListener("keydown", key);
    window.addEventListener("keyup", key);
    return () => {
      watch.disconnect();
      el.removeEventListener("wheel", wheel);
      window.removeEventListener("keydown", key);
      window.removeEventListener("keyup", key);
    };
  }, []);
  useEffect(() => {
    if (!p.standIn) return;
    const layers = shown.current;
    let live = true;
    void createImageBitmap(p.standIn).then((b) => {
      if (live) {
        layers.stand = b;
        paint();
      }
    });
    return () => {
      live = false;
      layers.stand?.close();
      delete layers.stand;
    };
  }, [p.standIn, paint]);

  const at = (e: React.PointerEvent | React.MouseEvent): { x: number; y: number } => {
    const r = canvas.current!.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const zoomed = p.viewport.zoom !== "fit";
  const resting = zoomed ? "cursor-grab" : "cursor-default";
  return (
    <div className="relative min-h-0 grow overflow-hidden bg-well">
      <canvas
        ref={canvas}
        tabIndex={0}
        aria-label="The picture"
        className={`absolute inset-0 outline-none ${p.picking || p.drawing ? "cursor-crosshair" : resting}`}
        onPointerDown={(e) => {
          const q = at(e);
          if (p.picking && !space.current) {
            p.onPick(toPicture(p.viewport, p.size, box, q.x, q.y));
            return;
          }
          if (p.drawing && !space.current) {
            const at = toPicture(p.viewport, p.size, box, q.x, q.y);
            stroke.current = [[at.x / p.size.width, at.y / p.size.height]];
            e.currentTarget.setPointerCapture(e.pointerId);
            paint();
            return;
          }
          const onSplit = p.wipe && !space.current && Math.abs(q.x - split * box.width) < 14;
          drag.current = { ...q, cx: p.viewport.cx, cy: p.viewport.cy, split: onSplit };
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          const q = at(e);
          const d = drag.current;
          const pic = toPicture(p.viewport, p.size, box, q.x, q.y);
          p.onPoint(
            pic.x >= 0 && pic.y >= 0 && pic.x < p.size.width && pic.y < p.size.height
              ? pic
              : undefined,
          );
          if (stroke.current) {
            const share: [number, number] = [
              clamp(pic.x / p.size.width, 0, 1),
              clamp(pic.y / p.size.height, 0, 1),
            ];
            const last = stroke.current.at(-1)!;
            if (p.drawing?.shape === "line") {
              stroke.current = [stroke.current[0]!, share];
              paint();
              return;
            }
            if (
              Math.hypot(
                (share[0] - last[0]) * p.size.width,
                (share[1] - last[1]) * p.size.height,
              ) *
                zoomOf(p.viewport, p.size, box) >
                2 &&
              stroke.current.length < 4000
            ) {
              stroke.current.push(share);
              paint();
            }
            return;
          }
          if (!d) return;
          if (d.split) {
            setSplit(clamp(q.x / box.width, 0, 1));
            return;
          }
          const z = zoomOf(p.viewport, p.size, box);
          if (zoomed)
            p.onViewport(
              settle(
                { zoom: p.viewport.zoom, cx: d.cx - (q.x - d.x) / z, cy: d.cy - (q.y - d.y) / z },
                p.size,
                box,
              ),
            );
        }}
        onPointerUp={() => {
          drag.current = undefined;
          const drawn = stroke.current;
          stroke.current = undefined;
          if (
            drawn &&
            (drawn.length > 2 ||
              p.drawing?.shape === "brush" ||
              (p.drawing?.shape === "line" && drawn.length > 1))
          )
            p.onDrawn(drawn);
          paint();
        }}
        onPointerCancel={() => {
          drag.current = undefined;
          stroke.current = undefined;
          paint();
        }}
        onPointerLeave={() => p.onPoint(undefined)}
        onDoubleClick={(e) => {
          const q = at(e);
          p.onViewport(
            zoomed
              ? settle({ zoom: "fit", cx: 0, cy: 0 }, p.size, box)
              : zoomAt(p.viewport, p.size, box, q.x, q.y, 1),
          );
        }}
      />
    </div>
  );
}
