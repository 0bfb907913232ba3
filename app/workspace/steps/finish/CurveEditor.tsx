import { useRef, useState } from "react";
import type { CurvePoint } from "../../../../core/finish/adjustments";
import { monotoneCurve } from "../../../../core/finish/curve";
import { clamp } from "../../../../core/math/clamp";
import { Button } from "../../../ui/Button";
import { useKeepSoon } from "../../../ui/useKeepSoon";

const SIDE = 240;
const HEIGHT = 150;
/** Points are this far apart at least, and a press this near takes hold of one. */
const APART = 0.02;
const NEAR = 0.05;
const MOST = 12;
/** A point that is dragged this far out of the box is taken away. */
const OUT = 0.15;
const KEY_STEP = 0.01;

interface Props {
  name: string;
  points: readonly CurvePoint[];
  onShow: (points: CurvePoint[]) => void;
  onKeep: (points: CurvePoint[]) => void;
}

/**
 * A tone curve: press on it to set a point, drag it, out of the box to take it away. By keys: arrows
 * move the point in focus, Delete takes it away.
 */
export function CurveEditor({ name, points, onShow, onKeep }: Props) {
  const box = useRef<SVGSVGElement>(null);
  const [dragged, setDragged] = useState<number>();
  const { soon } = useKeepSoon<CurvePoint[]>(onKeep);
  const curve = monotoneCurve(points);
  const at = (e: React.PointerEvent): CurvePoint => {
    const r = box.current!.getBoundingClientRect();
    return [(e.clientX - r.left) / r.width, 1 - (e.clientY - r.top) / r.height];
  };
  /** The points with one of them elsewhere, between its neighbours. */
  const moved = (i: number, [x, y]: CurvePoint): CurvePoint[] => {
    const before = points[i - 1]?.[0] ?? -APART;
    const after = points[i + 1]?.[0] ?? 1 + APART;
    return points.map((p, k) =>
      k === i ? [clamp(x, before + APART, after - APART), clamp(y, 0, 1)] : p,
    );
  };
  const without = (i: number): CurvePoint[] => points.filter((_, k) => k !== i);
  const isOut = ([x, y]: CurvePoint): boolean => x < -OUT || x > 1 + OUT || y < -OUT || y > 1 + OUT;
  const press = (e: React.PointerEvent<SVGSVGElement>): void => {
    const place = at(e);
    e.currentTarget.setPointerCapture(e.pointerId);
    const near = points.findIndex((p) => Math.hypot(p[0] - place[0], p[1] - place[1]) < NEAR);
    if (near >= 0) {
      setDragged(near);
      return;
    }
    if (points.length >= MOST) return;
    const next = [...points, place].sort((a, b) => a[0] - b[0]);
    const i = next.indexOf(place);
    const hasRoom = next.every((p, k) => k === 0 || p[0] - next[k - 1]![0] >= APART);
    if (!hasRoom) return;
    setDragged(i);
    onShow(next.map(([x, y]) => [clamp(x, 0, 1), clamp(y, 0, 1)]));
  };
  const drag = (e: React.PointerEvent): void => {
    if (dragged !== undefined && points[dragged]) onShow(moved(dragged, at(e)));
  };
  const drop = (e: React.PointerEvent): void => {
    if (dragged === undefined || !points[dragged]) return;
    const place = at(e);
    setDragged(undefined);
    onKeep(isOut(place) ? without(dragged) : moved(dragged, place));
  };
  const onKeyDown = (e: React.KeyboardEvent, i: number): void => {
    const [x, y] = points[i]!;
    const by: Record<string, CurvePoint> = {
      ArrowLeft: [x - KEY_STEP, y],
      ArrowRight: [x + KEY_STEP, y],
      ArrowUp: [x, y + KEY_STEP],
      ArrowDown: [x, y - KEY_STEP],
    };
    const to = by[e.key];
    if (!to && e.key !== "Delete") return;
    e.preventDefault();
    e.stopPropagation();
    if (!to) {
      onKeep(without(i));
      return;
    }
    const next = moved(i, to);
    onShow(next);
    soon(next);
  };
  const path = Array.from({ length: 61 }, (_, i) => {
    const x = i / 60;
    return `${i ? "L" : "M"}${x * SIDE},${(1 - curve(x)) * HEIGHT}`;
  }).join("");
  return (
    <div className="my-1">
      <svg
        ref={box}
        viewBox={`0 0 ${SIDE} ${HEIGHT}`}
        role="group"
        aria-label={`${name} curve`}
        className="w-full cursor-crosshair touch-none overflow-visible rounded bg-track"
        onPointerDown={press}
        onPointerMove={drag}
        onPointerUp={drop}
      >
        {[0.25, 0.5, 0.75].map((t) => (
          <path
            key={t}
            d={`M${t * SIDE},0V${HEIGHT}M0,${t * HEIGHT}H${SIDE}`}
            stroke="var(--line)"
            strokeWidth={0.5}
          />
        ))}
        <path d={`M0,${HEIGHT}L${SIDE},0`} stroke="var(--line)" />
        <path d={path} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
        {points.map(([x, y], i) => (
          <circle
            key={i}
            cx={x * SIDE}
            cy={(1 - y) * HEIGHT}
            r={5}
            fill="var(--ink)"
            stroke="var(--panel)"
            tabIndex={0}
            role="slider"
            aria-label={`Point ${i + 1} of the ${name.toLowerCase()} curve`}
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuenow={Math.round(y * 100)}
            aria-valuetext={`${Math.round(x * 100)} % to ${Math.round(y * 100)} %`}
            onKeyDown={(e) => onKeyDown(e, i)}
          />
        ))}
      </svg>
      <div className="mt-1 flex items-center gap-1">
        <Button
          variant="plain"
          className="h-6 px-2"
          disabled={points.length >= MOST}
          hint="Sets a point in the widest gap"
          onClick={() => onKeep(withPointInGap(points, curve))}
        >
          Add a point
        </Button>
        {points.length > 0 && (
          <Button variant="plain" className="h-6 px-2" onClick={() => onKeep([])}>
            Straight
          </Button>
        )}
      </div>
    </div>
  );
}

/** The points with another one on the curve, in the middle of the widest gap. */
function withPointInGap(points: readonly CurvePoint[], curve: (x: number) => number): CurvePoint[] {
  const xs = [0, ...points.map(([x]) => x), 1];
  let widest = 0;
  for (let i = 1; i < xs.length - 1; i++)
    if (xs[i + 1]! - xs[i]! > xs[widest + 1]! - xs[widest]!) widest = i;
  const x = (xs[widest]! + xs[widest + 1]!) / 2;
  const point: CurvePoint = [x, curve(x)];
  return [...points, point].sort((a, b) => a[0] - b[0]);
}
