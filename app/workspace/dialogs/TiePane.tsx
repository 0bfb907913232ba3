import { useEffect, useRef, useState } from "react";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { StackSession } from "../../work/session";
import {
  settle,
  toPicture,
  visible,
  zoomAt,
  zoomOf,
  type Size,
  type Viewport,
} from "../picture/viewport";

export interface Mark {
  key: string;
  /** px of the frame */
  x: number;
  y: number;
  on: boolean;
  own: boolean;
  /** where the cameras say it should be */
  should?: [number, number] | undefined;
}
interface Props {
  session: StackSession;
  recipe: Recipe;
  /** among those that take part */
  frame: number;
  name: string;
  size: Size;
  marks: readonly Mark[];
  viewport: Viewport;
  onViewport: (v: Viewport) => void;
  /** a click that was no drag, px of the frame */
  onPlace: ((x: number, y: number) => void) | undefined;
  onMark: (key: string) => void;
}

/** One frame as it was taken, with its ties. */
export function TiePane({
  session,
  recipe,
  frame,
  name,
  size,
  marks,
  viewport: asked,
  onViewport,
  onPlace,
  onMark,
}: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [box, setBox] = useState<Size>({ width: 0, height: 0 });
  const viewport = asked.zoom === "fit" ? settle(asked, size, box) : asked;
  const z = zoomOf(viewport, size, box);
  const place = (x: number, y: number): [number, number] => [
    box.width / 2 + (x - viewport.cx) * z,
    box.height / 2 + (y - viewport.cy) * z,
  ];
  const latest = useRef({ viewport, size, box, onViewport });
  const drag = useRef<{ x: number; y: number; cx: number; cy: number; moved: boolean } | undefined>(
    undefined,
  );
  const requests = useRef(0);
  useEffect(() => {
    latest.current = { viewport, size, box, onViewport };
  });
  useEffect(() => {
    const el = canvas.current!.parentElement!;
    const watch = new ResizeObserver(() =>
      setBox({ width: el.clientWidth, height: el.clientHeight }),
    );
    watch.observe(el);
    const wheel = (e: WheelEvent): void => {
      e.preventDefault();
      const l = latest.current;
      const r = el.getBoundingClientRect();
      l.onViewport(
        zoomAt(
          l.viewport,
          l.size,
          l.box,
          { x: e.clientX - r.left, y: e.clientY - r.top },
          zoomOf(l.viewport, l.size, l.box) * Math.exp(-e.deltaY * 0.0022),
        ),
      );
    };
    el.addEventListener("wheel", wheel, { passive: false });
    return () => {
      watch.disconnect();
      el.removeEventListener("wheel", wheel);
    };
  }, []);
  useEffect(() => {
    const c = canvas.current;
    const mine = ++requests.current;
    if (!c || !box.width) return;
    void session
      .view({
        region: visible(viewport, size, box),
        zoom: z,
        recipe,
        clipped: false,
        frame: session.placeOf(frame),
      })
      .then(
        (v) => {
          if (!v || mine !== requests.current) return;
          const made = new OffscreenCanvas(v.width, v.height);
          const g = c.getContext("2d")!;
          made.getContext("2d")!.putImageData(new ImageData(v.pixels, v.width, v.height), 0, 0);
          c.width = box.width;
          c.height = box.height;
          g.imageSmoothingEnabled = z < 2;
          g.drawImage(
            made,
            ...place(v.region.x, v.region.y),
            v.region.width * z,
            v.region.height * z,
          );
          c.dataset["shown"] = String(Number(c.dataset["shown"] ?? 0) + 1);
        },
        () => undefined,
      );
  }, [session, recipe, frame, asked, box, size.width, size.height]); // eslint-disable-line react-hooks/exhaustive-deps
  return (
    <figure className="flex min-w-0 flex-col bg-panel">
      <figcaption className="flex h-7 items-center px-2 text-[12px]">
        <span className="min-w-0 grow truncate">{name}</span>
        <span className="text-quiet">{box.width ? `${Math.round(z * 100)} %` : ""}</span>
      </figcaption>
      <div
        role="application"
        aria-label={`Frame ${name}`}
        data-zoom={z}
        className={`relative min-h-0 grow overflow-hidden bg-well ${onPlace ? "cursor-crosshair" : "cursor-grab"}`}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          drag.current = {
            x: e.clientX,
            y: e.clientY,
            cx: viewport.cx,
            cy: viewport.cy,
            moved: false,
          };
        }}
        onPointerMove={(e) => {
          const d = drag.current;
          if (!d || (!d.moved && Math.hypot(e.clientX - d.x, e.clientY - d.y) < 4)) return;
          d.moved = true;
          if (viewport.zoom !== "fit")
            onViewport(
              settle(
                {
                  zoom: viewport.zoom,
                  cx: d.cx - (e.clientX - d.x) / z,
                  cy: d.cy - (e.clientY - d.y) / z,
                },
                size,
                box,
              ),
            );
        }}
        onPointerUp={(e) => {
          const d = drag.current;
          const r = e.currentTarget.getBoundingClientRect();
          drag.current = undefined;
          if (!d || d.moved) return;
          const [x, y] = [e.clientX - r.left, e.clientY - r.top];
          const p = toPicture(viewport, size, box, x, y);
          if (onPlace) {
            if (p.x >= 0 && p.y >= 0 && p.x < size.width && p.y < size.height) onPlace(p.x, p.y);
            return;
          }
          const nearest = marks
            .map((m) => ({ m, d: Math.hypot(place(m.x, m.y)[0] - x, place(m.x, m.y)[1] - y) }))
            .sort((p, q) => p.d - q.d)[0];
          if (nearest && nearest.d < 12) onMark(nearest.m.key);
        }}
      >
        <canvas ref={canvas} className="absolute inset-0 size-full" />
        <svg aria-hidden className="pointer-events-none absolute inset-0 size-full">
          {marks.map((m) => {
            const [x, y] = place(m.x, m.y);
            const s = m.should && place(...m.should);
            const arm = m.on ? 9 : 4;
            const colour = m.on ? "var(--accent)" : "#f2f2f2";
            return (
              <g key={m.key} stroke="#000" strokeOpacity="0.6" strokeWidth={m.on ? 4 : 3}>
                {[0, 1].map((over) => (
                  <g
                    key={over}
                    {...(over
                      ? { stroke: colour, strokeOpacity: 1, strokeWidth: m.on ? 1.5 : 1 }
                      : {})}
                    fill="none"
                  >
                    <path d={`M${x - arm} ${y}h${2 * arm}M${x} ${y - arm}v${2 * arm}`} />
                    {m.own && <rect x={x - 6} y={y - 6} width="12" height="12" />}
                    {m.on && s && <circle cx={s[0]} cy={s[1]} r="14" />}
                  </g>
                ))}
              </g>
            );
          })}
        </svg>
      </div>
    </figure>
  );
}
