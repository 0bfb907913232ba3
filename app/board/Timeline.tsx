import { useRef, useState } from "react";
import type { Frame } from "../store/records";
import { clock, signed } from "../ui/format";
import { relativeEvs } from "./exposures";
import { clamp } from "../../core/math/clamp";

interface Props {
  sets: { id: string; frames: Frame[] }[];
  selected: string | undefined;
  onSelect: (id: string) => void;
}
interface Tick {
  set: string;
  frame: Frame;
  ev: number | undefined;
  t: number | undefined;
  at: number;
  first: boolean;
}

/**
 * Every frame as a tick in the order of its taking, its height its EV. Long pauses are drawn short.
 * A stretch drawn over it is shown alone.
 */
export function Timeline({ sets, selected, onSelect }: Props) {
  const width = 1200;
  const height = 84;
  const top = 12;
  const mid = 42;
  const [span, setSpan] = useState<readonly [number, number]>();
  const [drawn, setDrawn] = useState<readonly [number, number]>();
  const svg = useRef<SVGSVGElement>(null);
  let x = 0;
  const ticks: Tick[] = sets.flatMap((s) => {
    const evs = relativeEvs(s.frames);
    return s.frames.map((frame, i) => ({
      set: s.id,
      frame,
      ev: evs[i],
      t: frame.info.exif.takenAt,
      at: 0,
      first: i === 0,
    }));
  });
  ticks.forEach((k, i) => {
    const before = ticks[i - 1];
    let gap: number;
    if (before && k.t !== undefined && before.t !== undefined) gap = Math.max(0, k.t - before.t);
    else if (before) gap = 60;
    else gap = 0;
    if (before) x += before.set === k.set ? 1 : 2.5 + Math.min(8, Math.log2(1 + gap / 20));
    k.at = x;
  });
  const [from, to] = span ?? [0, Math.max(12, x)];
  const scale = (width - 60) / (to - from);
  const reach = Math.max(2, ...ticks.map((p) => Math.abs(p.ev ?? 0)));
  const place = (clientX: number): number => {
    const r = svg.current!.getBoundingClientRect();
    return from + (((clientX - r.left - 16) / (r.width - 32)) * width - 44) / scale;
  };
  const shown = ticks.filter((p) => p.at >= from - 1 && p.at <= to + 1);
  let labelled = -Infinity;
  return (
    <div className="relative shrink-0 border-b border-line">
      <svg
        ref={svg}
        role="img"
        aria-label={`Capture timeline of ${ticks.length} frames`}
        viewBox={`0 0 ${width} ${height}`}
        className="h-[84px] w-full cursor-crosshair touch-none bg-ground px-4"
        preserveAspectRatio="none"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          const p = place(e.clientX);
          setDrawn([p, p]);
        }}
        onPointerMove={(e) => setDrawn((d) => d && [d[0], place(e.clientX)])}
        onPointerUp={() => {
          setDrawn(undefined);
          if (!drawn) return;
          const [a, b] = [Math.min(...drawn), Math.max(...drawn)];
          if ((b - a) * scale > 12) {
            setSpan([a, Math.max(b, a + 4)]);
            return;
          }
          const nearest = shown.reduce<Tick | undefined>(
            (best, p) => (!best || Math.abs(p.at - a) < Math.abs(best.at - a) ? p : best),
            undefined,
          );
          if (nearest) onSelect(nearest.set);
        }}
        onDoubleClick={() => setSpan(undefined)}
      >
        {[reach, 0, -reach].map((ev, i) => (
          <g key={i}>
            <line
              x1="34"
              x2={width}
              y1={mid - (ev / reach) * (mid - top)}
              y2={mid - (ev / reach) * (mid - top)}
              stroke="var(--line)"
              strokeWidth="1"
            />
            <text
              x="26"
              y={mid - (ev / reach) * (mid - top) + 4}
              textAnchor="end"
              fontSize="12"
              fill="var(--quiet)"
            >
              {signed(ev)}
            </text>
          </g>
        ))}
        {shown.map((p) => {
          const px = 44 + (p.at - from) * scale;
          const y = mid - ((p.ev ?? 0) / reach) * (mid - top);
          const on = p.set === selected;
          const wide = clamp(scale * 0.7, 1.5, 5);
          const label = p.first && p.t !== undefined && px - labelled > 44;
          if (label) labelled = px;
          return (
            <g key={p.frame.id}>
              <title>{`${p.frame.info.name}${p.ev === undefined ? "" : `, ${signed(p.ev)} EV`}`}</title>
              <line
                x1={px}
                x2={px}
                y1={mid}
                y2={y}
                stroke={on ? "var(--accent)" : "var(--quiet)"}
                strokeWidth={on ? 2 : 1}
              />
              <rect
                x={px - wide / 2}
                y={y - 2.5}
                width={wide}
                height="5"
                fill={on ? "var(--accent)" : "var(--ink)"}
              />
              {label && (
                <text x={px} y={height - 2} fontSize="12" fill="var(--quiet)">
                  {clock(p.t!)}
                </text>
              )}
            </g>
          );
        })}
        {drawn && (
          <rect
            x={44 + (Math.min(...drawn) - from) * scale}
            width={Math.abs(drawn[1] - drawn[0]) * scale}
            y="0"
            height={height}
            fill="var(--ink)"
            opacity="0.12"
          />
        )}
      </svg>
      {span && (
        <button
          type="button"
          onClick={() => setSpan(undefined)}
          className="absolute right-2 top-1 h-6 rounded border border-line bg-raised px-2 text-[12px]"
        >
          Whole day
        </button>
      )}
    </div>
  );
}
