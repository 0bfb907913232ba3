import { useRef, useState, type PointerEvent } from "react";
import type { Rectangle } from "../../../core/raster/largestRectangle";
import { dragged, GRIPS, overlayLines, type Grip, type Overlay } from "./cropShape";
import { zoomOf, type Size, type Viewport } from "./viewport";

interface Props {
  kept: Rectangle;
  picture: Size;
  viewport: Viewport;
  box: Size;
  ratio: number | undefined;
  overlay: Overlay;
  onKeep: (r: Rectangle) => void;
  onReset: () => void;
}

/** Sides of a grip as it is seen and as it is taken, px. */
const GRIP = 10;
const TAKEN = 24;
const NAMES = {
  "-1": { "-1": "Upper left corner", 0: "Upper side", 1: "Upper right corner" },
  0: { "-1": "Left side", 0: "", 1: "Right side" },
  1: { "-1": "Lower left corner", 0: "Lower side", 1: "Lower right corner" },
} as const;
const cursorOf = ({ h, v }: Grip): string => {
  if (!h) return "cursor-ns-resize";
  if (!v) return "cursor-ew-resize";
  if (h === v) return "cursor-nwse-resize";
  return "cursor-nesw-resize";
};

/**
 * What is kept of a picture, as a frame over it: dragged by its sides and corners, and whole where
 * all of the picture is seen.
 */
export function CropFrame({
  kept,
  picture,
  viewport,
  box,
  ratio,
  overlay,
  onKeep,
  onReset,
}: Props) {
  const drag = useRef<{ grip: Grip; x: number; y: number; was: Rectangle }>(undefined);
  const [now, setNow] = useState<Rectangle>();
  const r = now ?? kept;
  const z = zoomOf(viewport, picture, box);
  const x = (r.x - viewport.cx) * z + box.width / 2;
  const y = (r.y - viewport.cy) * z + box.height / 2;
  const w = r.width * z;
  const h = r.height * z;
  const take =
    (grip: Grip) =>
    (e: PointerEvent<SVGElement>): void => {
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
      drag.current = { grip, x: e.clientX, y: e.clientY, was: r };
    };
  const follow = (e: PointerEvent): void => {
    const d = drag.current;
    if (!d) return;
    setNow(dragged(d.was, d.grip, (e.clientX - d.x) / z, (e.clientY - d.y) / z, picture, ratio));
  };
  const letGo = (keep: boolean) => (): void => {
    drag.current = undefined;
    setNow(undefined);
    if (keep && now) onKeep(now);
  };
  const px = viewport.cx * -z + box.width / 2;
  const py = viewport.cy * -z + box.height / 2;
  const ways = { onPointerMove: follow, onPointerUp: letGo(true), onPointerCancel: letGo(false) };
  return (
    <svg
      aria-label="What is kept"
      role="group"
      className="pointer-events-none absolute inset-0 size-full touch-none overflow-hidden"
    >
      <path
        aria-hidden
        fillRule="evenodd"
        fill="rgb(13 13 13 / 0.6)"
        d={`M${px} ${py}h${picture.width * z}v${picture.height * z}h${-picture.width * z}z M${x} ${y}h${w}v${h}h${-w}z`}
      />
      <rect
        x={x}
        y={y}
        width={w}
        height={h}
        fill="transparent"
        className={viewport.zoom === "fit" ? "pointer-events-auto cursor-move" : ""}
        onPointerDown={take({ h: 0, v: 0 })}
        onDoubleClick={onReset}
        {...ways}
      />
      <g aria-hidden>
        {overlayLines(overlay, r.width / r.height).map(([u0, t0, u1, t1]) =>
          [
            ["rgb(0 0 0 / 0.45)", 2],
            ["rgb(242 242 242 / 0.7)", 0.75],
          ].map(([stroke, width]) => (
            <line
              key={`${u0} ${t0} ${u1} ${t1} ${width}`}
              x1={x + u0 * w}
              y1={y + t0 * h}
              x2={x + u1 * w}
              y2={y + t1 * h}
              stroke={stroke as string}
              strokeWidth={width}
            />
          )),
        )}
        <rect x={x} y={y} width={w} height={h} fill="none" stroke="#f2f2f2" strokeWidth={1} />
      </g>
      {GRIPS.map((grip) => {
        const gx = x + ((grip.h + 1) / 2) * w;
        const gy = y + ((grip.v + 1) / 2) * h;
        return (
          <g
            key={`${grip.h} ${grip.v}`}
            className={`pointer-events-auto ${cursorOf(grip)}`}
            onPointerDown={take(grip)}
            {...ways}
          >
            <title>{`${NAMES[grip.v][grip.h]}: drag it`}</title>
            <rect
              x={gx - TAKEN / 2}
              y={gy - TAKEN / 2}
              width={TAKEN}
              height={TAKEN}
              fill="transparent"
            />
            <rect
              x={gx - GRIP / 2}
              y={gy - GRIP / 2}
              width={GRIP}
              height={GRIP}
              fill="#f2f2f2"
              stroke="#0d0d0d"
            />
          </g>
        );
      })}
    </svg>
  );
}
