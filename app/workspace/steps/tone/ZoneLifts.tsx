import { useRef, useState } from "react";
import type { SceneStatistics } from "../../../../core/tone/sceneStatistics";
import { signed } from "../../../ui/format";
import { Hint } from "../../../ui/Button";

const W = 216;
const H = 84;
const MOST = 3;
const NAMES = ["Darkest", "Dark", "Middle", "Light", "Lightest"];
interface Props {
  lifts: readonly number[];
  statistics: SceneStatistics | undefined;
  onShow: (lifts: number[]) => void;
  onKeep: (lifts: number[]) => void;
}

/**
 * The scene's histogram in EV with a handle on each fifth of its range: up lightens that zone, down
 * darkens it.
 */
export function ZoneLifts({ lifts, statistics: s, onShow, onKeep }: Props) {
  const box = useRef<SVGSVGElement>(null);
  const [dragged, setDragged] = useState<number>();
  const x = (i: number): number => ((i + 0.5) / lifts.length) * W;
  const y = (v: number): number => H / 2 - (v / MOST) * (H / 2 - 6);
  const set = (i: number, v: number): number[] =>
    lifts.map((l, k) => (k === i ? Math.round(Math.min(MOST, Math.max(-MOST, v)) * 20) / 20 : l));
  const at = (e: React.PointerEvent): number => {
    const r = box.current!.getBoundingClientRect();
    return ((H / 2 - ((e.clientY - r.top) / r.height) * H) / (H / 2 - 6)) * MOST;
  };
  const peak = s ? Math.max(...s.counts) : 1;
  const span = s ? s.highEv - s.lowEv : 1;
  return (
    <div className="py-1">
      <div className="flex justify-between text-[12px] text-quiet">
        <Hint text="Lifts a zone of the scene: drag, or arrow keys; double-click for 0.">
          <span>Zones</span>
        </Hint>
        <span>
          {dragged === undefined ? "" : `${NAMES[dragged]} ${signed(lifts[dragged]!, 2)} EV`}
        </span>
      </div>
      <svg ref={box} viewBox={`0 0 ${W} ${H}`} className="w-full touch-none rounded bg-panel">
        {s?.counts.map((n, i) => {
          const ev = s.fromEv + (i + 0.5) * s.binEv;
          const p = (ev - s.lowEv) / span;
          return n && p >= 0 && p <= 1 ? (
            <rect
              key={i}
              x={p * W - 1}
              width={Math.max(2, (s.binEv / span) * W)}
              y={H - Math.sqrt(n / peak) * (H - 8)}
              height={Math.sqrt(n / peak) * (H - 8)}
              fill="var(--line)"
            />
          ) : null;
        })}
        <line x1={0} x2={W} y1={H / 2} y2={H / 2} stroke="var(--quiet)" strokeOpacity={0.4} />
        <polyline
          points={lifts.map((v, i) => `${x(i)},${y(v)}`).join(" ")}
          fill="none"
          stroke="var(--quiet)"
          strokeWidth={1.5}
        />
        {lifts.map((v, i) => (
          <circle
            key={i}
            cx={x(i)}
            cy={y(v)}
            r={6}
            fill={v ? "var(--accent)" : "var(--ink)"}
            tabIndex={0}
            role="slider"
            aria-label={`${NAMES[i]} zone`}
            aria-valuemin={-MOST}
            aria-valuemax={MOST}
            aria-valuenow={v}
            aria-valuetext={`${signed(v, 2)} EV`}
            className="cursor-ns-resize"
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              setDragged(i);
            }}
            onPointerMove={(e) => {
              if (dragged === i) onShow(set(i, at(e)));
            }}
            onPointerUp={(e) => {
              if (dragged === i) {
                setDragged(undefined);
                onKeep(set(i, at(e)));
              }
            }}
            onDoubleClick={() => onKeep(set(i, 0))}
            onKeyDown={(e) => {
              const by = { ArrowUp: 0.1, ArrowDown: -0.1 }[e.key];
              if (by) {
                e.preventDefault();
                e.stopPropagation();
                onKeep(set(i, v + by));
              }
            }}
          />
        ))}
      </svg>
    </div>
  );
}
