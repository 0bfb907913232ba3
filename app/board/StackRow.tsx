import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Frame, Result, Stack } from "../store/records";
import { signed, plainNumber } from "../ui/format";
import { Picture } from "../ui/Picture";
import { relativeEvs } from "./exposures";

const WORDS = { bracket: "Bracket", panorama: "Panorama", focus: "Focus", single: "Single" };

interface Props { stack: Stack; frames: Frame[]; thumbnails: Map<string, Blob>; result: Result | undefined; selected: boolean; to: string; naming: boolean; onSelect: () => void; onName: (name: string | undefined) => void }

/** One stack: what it is, its frames on the staircase of their EV, its result at the end. */
export function StackRow({ stack, frames, thumbnails, result, selected, to, naming, onSelect, onName }: Props) {
  const evs = relativeEvs(frames);
  const reach = Math.max(1, ...evs.map((e) => Math.abs(e ?? 0)));
  const row = useRef<HTMLLIElement>(null);
  useEffect(() => { if (selected) row.current?.scrollIntoView({ block: "nearest" }); }, [selected]);
  return (
    <li ref={row} aria-current={selected} onClick={onSelect} className={`relative flex h-28 shrink-0 items-center border-b border-line pl-4 pr-6 ${selected ? "bg-panel" : ""}`}>
      {selected && <span aria-hidden className="absolute inset-y-0 left-0 w-[3px] bg-accent" />}
      <State done={result !== undefined} single={stack.kind === "single"} />
      <div className="ml-4 w-60 shrink-0">
        {naming ? <NameField name={stack.name} onName={onName} /> : <Link to={to} className="block truncate rounded font-semibold hover:underline">{stack.name}</Link>}
        <p className="truncate text-quiet" title={stack.why}>{stack.kind === "bracket" ? stack.why : WORDS[stack.kind]}</p>
        {stack.warnings.map((w) => <p key={w.code} className="truncate text-accent" title={w.message}>! {w.message}</p>)}
      </div>
      <Link to={to} tabIndex={-1} aria-label={`Open ${stack.name}`} className="flex h-full min-w-0 grow items-center gap-2 overflow-hidden">
        {frames.map((f, i) => {
          const ev = evs[i];
          return (
            <figure key={f.id} className="relative shrink-0" style={{ top: `${-((ev ?? 0) / reach) * 17}px` }}>
              <Picture blob={thumbnails.get(f.hash)} alt={f.info.name} className="h-12 w-[72px] rounded-sm object-cover" />
              <figcaption className="text-center text-[12px] leading-4 text-quiet">{ev === undefined ? "–" : signed(ev)}</figcaption>
            </figure>
          );
        })}
      </Link>
      <Link to={to} tabIndex={-1} aria-hidden className="ml-4 shrink-0">
        {result ? <Picture blob={result.picture} alt={`Result of ${stack.name}`} className="h-20 w-[120px] rounded-sm object-cover" /> : <span className="block h-20 w-[120px] rounded-sm border border-dashed border-line" />}
      </Link>
      <div className="ml-4 w-36 shrink-0">
        {result ? <><p>Merged</p><p className="text-[12px] text-quiet">{plainNumber(result.rangeEv)} EV, residual {plainNumber(result.residualPx, 2)} px</p></> : <><p>Fresh</p><p className="text-[12px] text-quiet">{stack.kind === "single" ? "one frame" : "merges with M"}</p></>}
      </div>
    </li>
  );
}

function State({ done, single }: { done: boolean; single: boolean }) {
  return (
    <svg viewBox="0 0 12 12" role="img" aria-label={done ? "Merged" : "Fresh"} className="size-3 shrink-0 text-quiet">
      {single ? <rect x="2.5" y="2.5" width="7" height="7" fill={done ? "currentColor" : "none"} stroke="currentColor" /> : <circle cx="6" cy="6" r="4.5" fill={done ? "currentColor" : "none"} stroke="currentColor" />}
    </svg>
  );
}

function NameField({ name, onName }: { name: string; onName: (n: string | undefined) => void }) {
  const [text, setText] = useState(name);
  const left = useRef(false);
  const leave = (value: string | undefined): void => { if (!left.current) { left.current = true; onName(value); } };
  return <input autoFocus aria-label="Name of the stack" value={text} maxLength={120} onFocus={(e) => e.target.select()} onChange={(e) => setText(e.target.value)} onBlur={() => leave(text.trim() || undefined)} onKeyDown={(e) => { if (e.key === "Enter") leave(text.trim() || undefined); if (e.key === "Escape") leave(undefined); e.stopPropagation(); }} className="h-6 w-full rounded border border-line bg-ground px-1 font-semibold" />;
}
