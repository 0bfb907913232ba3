import type { Frame, Stack } from "../store/records";
import { clock, signed } from "../ui/format";
import { relativeEvs } from "./exposures";

/** Every frame as a tick at its time, its height its EV. Long pauses are drawn short, as a break in the line. */
export function Timeline({ stacks, frames, selected, onSelect }: { stacks: Stack[]; frames: Map<string, Frame>; selected: string | undefined; onSelect: (id: string) => void }) {
  const width = 1200, height = 84, top = 12, mid = 42;
  const ticks = stacks.flatMap((s) => {
    const own = s.frameIds.map((id) => frames.get(id)).filter((f): f is Frame => f !== undefined);
    const evs = relativeEvs(own);
    return own.map((f, i) => ({ stack: s, frame: f, ev: evs[i], t: f.info.exif.takenAt }));
  }).sort((a, b) => (a.t ?? Infinity) - (b.t ?? Infinity));
  let x = 0;
  const placed = ticks.map((k, i) => {
    const before = ticks[i - 1];
    const gap = before && k.t !== undefined && before.t !== undefined ? k.t - before.t : before ? 60 : 0;
    if (before) x += before.stack.id === k.stack.id ? 1 : 2.5 + Math.min(8, Math.log2(1 + gap / 20));
    return { ...k, at: x, broken: before !== undefined && before.stack.id !== k.stack.id };
  });
  const scale = (width - 60) / Math.max(12, x), reach = Math.max(2, ...placed.map((p) => Math.abs(p.ev ?? 0)));
  return (
    <svg role="img" aria-label={`Capture timeline of ${ticks.length} frames`} viewBox={`0 0 ${width} ${height}`} className="h-[84px] w-full shrink-0 border-b border-line bg-ground px-4" preserveAspectRatio="xMinYMid meet">
      {[reach, 0, -reach].map((ev, i) => <g key={i}><line x1="34" x2={width} y1={mid - (ev / reach) * (mid - top)} y2={mid - (ev / reach) * (mid - top)} stroke="var(--line)" strokeWidth="1" /><text x="26" y={mid - (ev / reach) * (mid - top) + 4} textAnchor="end" fontSize="12" fill="var(--quiet)">{signed(ev)}</text></g>)}
      {placed.map((p, i) => {
        const px = 44 + p.at * scale, y = mid - ((p.ev ?? 0) / reach) * (mid - top), on = p.stack.id === selected;
        const first = i === 0 || placed[i - 1]!.stack.id !== p.stack.id;
        return (
          <g key={p.frame.id} onClick={() => onSelect(p.stack.id)} className="cursor-pointer">
            <title>{`${p.frame.info.name}${p.ev === undefined ? "" : `, ${signed(p.ev)} EV`}`}</title>
            <line x1={px} x2={px} y1={mid} y2={y} stroke={on ? "var(--accent)" : "var(--quiet)"} strokeWidth={on ? 2 : 1} />
            <rect x={px - 2.5} y={y - 2.5} width="5" height="5" fill={on ? "var(--accent)" : "var(--ink)"} />
            <rect x={px - scale / 2} y="0" width={scale} height={height} fill="transparent" />
            {first && p.t !== undefined && <text x={px} y={height - 2} fontSize="12" fill="var(--quiet)">{clock(p.t)}</text>}
          </g>
        );
      })}
    </svg>
  );
}
