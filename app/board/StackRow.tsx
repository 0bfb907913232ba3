import { isMerged } from "../../pipeline/recipe/kinds";
import { useDraggable, useDroppable } from "@dnd-kit/core";
import { memo, useRef, useState } from "react";
import { Link } from "react-router";
import type { Frame, Stack, Result } from "../store/records";
import { signed, plainNumber } from "../ui/format";
import { Picture } from "../ui/Picture";
import { relativeEvs } from "./exposures";
import type { Row } from "./filter";

const WORDS = { bracket: "Bracket", panorama: "Panorama", focus: "Focus", single: "Single" };
export const ROW_HEIGHT = 112;

interface Props {
  row: Row;
  frames: Frame[];
  thumbnails: Map<string, Blob>;
  result: Result | undefined;
  leftOut: readonly string[];
  reference: number | undefined;
  selected: boolean;
  current: boolean;
  /** the frame the keys act on */
  cursor: number | undefined;
  picked: ReadonlySet<string>;
  to: string;
  naming: boolean;
  running: string | undefined;
  onSelect: (e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
  onFrame: (i: number, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
  onPeek: (i: number) => void;
  onName: (name: string | undefined) => void;
  onOpen: () => void;
  onDone: (done: boolean) => void;
}

/**
 * One stack: what it is and why, its frames standing on the ladder of their kind, its result at the
 * end.
 */
export const StackRow = memo(function StackRow({
  row,
  frames,
  thumbnails,
  result,
  leftOut,
  reference,
  selected,
  current,
  cursor,
  picked,
  to,
  naming,
  running,
  onSelect,
  onFrame,
  onPeek,
  onName,
  onOpen,
  onDone,
}: Props) {
  const { stack, members, depth, open } = row;
  const evs = relativeEvs(frames);
  const reach = Math.max(1, ...evs.map((e) => Math.abs(e ?? 0)));
  const { setNodeRef, isOver } = useDroppable({
    id: `stack ${stack.id}`,
    data: { stack: stack.id },
    disabled: members.length > 0,
  });
  const cover = stack.coverId && frames.find((f) => f.id === stack.coverId);
  return (
    <div
      ref={setNodeRef}
      role="row"
      aria-selected={selected}
      aria-current={current}
      onClick={onSelect}
      style={{ height: ROW_HEIGHT }}
      className={`relative flex items-center border-b border-line pr-4 ${depth ? "pl-10" : "pl-4"} ${selected ? "bg-panel" : ""} ${isOver ? "outline-2 -outline-offset-2 outline-accent" : ""}`}
    >
      {current && <span aria-hidden className="absolute inset-y-0 left-0 w-[3px] bg-accent" />}
      <State done={result !== undefined} single={stack.kind === "single"} />
      <div className={`ml-3 shrink-0 ${depth ? "w-58" : "w-64"}`}>
        <div className="flex items-center gap-1">
          {members.length > 0 && (
            <button
              type="button"
              aria-expanded={open}
              aria-label={open ? "Close the nested stack" : "Open the nested stack"}
              onClick={(e) => {
                e.stopPropagation();
                onOpen();
              }}
              className="size-6 shrink-0 rounded text-quiet hover:text-ink"
            >
              {open ? "▾" : "▸"}
            </button>
          )}
          {naming ? (
            <NameField name={stack.name} onName={onName} />
          ) : (
            <Link
              to={to}
              onClick={(e) => {
                if (e.shiftKey || e.ctrlKey || e.metaKey) e.preventDefault();
              }}
              className="block truncate rounded font-semibold hover:underline"
            >
              {stack.name}
            </Link>
          )}
        </div>
        <p className="truncate text-quiet" title={stack.why}>
          {stack.madeManually ? `${WORDS[stack.kind]}, put together manually` : stack.why}
        </p>
        {stack.warnings[0] && (
          <p
            className="truncate text-accent"
            title={stack.warnings.map((w) => w.message).join("\n")}
          >
            ! {stack.warnings[0].message}
            {stack.warnings.length > 1 && ` (and ${stack.warnings.length - 1} more)`}
          </p>
        )}
        <p className="flex gap-2 truncate text-[12px] text-quiet">
          {stack.rating > 0 && (
            <span aria-label={`Rating ${stack.rating} of 5`}>{"★".repeat(stack.rating)}</span>
          )}
          {stack.label !== "none" && (
            <span className="rounded border border-line px-1 capitalize">{stack.label}</span>
          )}
          {stack.note && (
            <span className="truncate italic" title={stack.note}>
              {stack.note}
            </span>
          )}
        </p>
      </div>
      <div
        role="gridcell"
        className="flex h-full min-w-0 grow items-center overflow-x-auto overflow-y-hidden"
        style={{ gap: stack.kind === "panorama" ? 0 : 8 }}
      >
        {frames.map((f, i) => {
          const ev = evs[i];
          let rise = 0;
          if (stack.kind === "bracket") rise = -((ev ?? 0) / reach) * 17;
          else if (stack.kind === "focus") rise = 14 - (28 * i) / Math.max(1, frames.length - 1);
          else if (stack.kind === "panorama") rise = i % 2 ? 4 : -4;
          return (
            <Thumb
              key={f.id}
              frame={f}
              blob={thumbnails.get(f.hash)}
              rise={rise}
              overlap={stack.kind === "panorama" && i > 0}
              narrow={frames.length > 9 && stack.kind !== "bracket"}
              caption={stack.kind === "bracket" ? evCaption(ev) : String(i + 1)}
              out={leftOut.includes(f.id)}
              reference={reference === i && stack.kind === "bracket"}
              cursor={cursor === i}
              picked={picked.has(f.id)}
              onClick={(e) => onFrame(i, e)}
              onDoubleClick={() => onPeek(i)}
            />
          );
        })}
      </div>
      <Link to={to} tabIndex={-1} aria-hidden className="ml-4 shrink-0">
        <RowPicture
          name={stack.name}
          result={result?.picture}
          cover={cover ? thumbnails.get(cover.hash) : undefined}
        />
      </Link>
      <div className="ml-4 w-32 shrink-0">
        <MergeState kind={stack.kind} result={result} running={running} />
        <label
          className="flex h-6 items-center gap-1.5 text-[12px] text-quiet"
          onClick={(e) => e.stopPropagation()}
        >
          <input
            type="checkbox"
            className="size-3.5 accent-(--accent)"
            checked={stack.done}
            onChange={(e) => onDone(e.target.checked)}
          />
          Done
        </label>
      </div>
    </div>
  );
});

const evCaption = (ev: number | undefined): string => (ev === undefined ? "–" : signed(ev));

interface ThumbProps {
  frame: Frame;
  blob: Blob | undefined;
  rise: number;
  overlap: boolean;
  narrow: boolean;
  caption: string;
  out: boolean;
  reference: boolean;
  cursor: boolean;
  picked: boolean;
  onClick: (e: React.MouseEvent) => void;
  onDoubleClick: () => void;
}

function Thumb({
  frame,
  blob,
  rise,
  overlap,
  narrow,
  caption,
  out,
  reference,
  cursor,
  picked,
  onClick,
  onDoubleClick,
}: ThumbProps) {
  const drag = useDraggable({ id: `frame ${frame.id}`, data: { frame: frame.id } });
  const inSet = reference ? `${caption}, ref` : caption;
  const drop = useDroppable({ id: `place ${frame.id}`, data: { before: frame.id } });
  let outline = "";
  if (cursor) outline = "outline-2 outline-accent";
  else if (picked) outline = "outline-2 outline-ink";
  else if (drop.isOver) outline = "outline-2 outline-dashed outline-accent";
  const t = drag.transform;
  const portrait = frame.info.height > frame.info.width;
  return (
    <figure
      ref={(el) => {
        drag.setNodeRef(el);
        drop.setNodeRef(el);
      }}
      {...drag.listeners}
      data-frame={frame.info.name}
      data-over={drop.isOver || undefined}
      onClick={(e) => {
        e.stopPropagation();
        onClick(e);
      }}
      onDoubleClick={onDoubleClick}
      title={`${frame.info.name}${out ? ", left out of the merge" : ""}${reference ? ", reference" : ""}`}
      className={`relative shrink-0 cursor-default touch-none ${overlap ? "-ml-4" : ""} ${drag.isDragging ? "z-20" : ""}`}
      style={{ top: rise, transform: t ? `translate(${t.x}px, ${t.y}px)` : undefined }}
    >
      <Picture
        blob={blob}
        alt={frame.info.name}
        className={`h-12 rounded-sm object-cover ${portrait || narrow ? "w-9" : "w-[72px]"} ${out ? "opacity-30" : ""} ${outline}`}
      />
      <figcaption
        className={`text-center text-[12px] leading-4 ${reference ? "font-semibold text-ink" : "text-quiet"}`}
      >
        {out ? "out" : inSet}
      </figcaption>
    </figure>
  );
}

function State({ done, single }: { done: boolean; single: boolean }) {
  return (
    <svg
      viewBox="0 0 12 12"
      role="img"
      aria-label={done ? "Merged" : "Not merged yet"}
      className="size-3 shrink-0 text-quiet"
    >
      {single ? (
        <rect
          x="2.5"
          y="2.5"
          width="7"
          height="7"
          fill={done ? "currentColor" : "none"}
          stroke="currentColor"
        />
      ) : (
        <circle cx="6" cy="6" r="4.5" fill={done ? "currentColor" : "none"} stroke="currentColor" />
      )}
    </svg>
  );
}

function NameField({ name, onName }: { name: string; onName: (n: string | undefined) => void }) {
  const [text, setText] = useState(name);
  const left = useRef(false);
  const leave = (value: string | undefined): void => {
    if (!left.current) {
      left.current = true;
      onName(value);
    }
  };
  return (
    <input
      autoFocus
      aria-label="Name of the stack"
      value={text}
      maxLength={120}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => leave(text.trim() || undefined)}
      onKeyDown={(e) => {
        if (e.key === "Enter") leave(text.trim() || undefined);
        if (e.key === "Escape") leave(undefined);
        e.stopPropagation();
      }}
      className="h-6 w-full rounded border border-line bg-ground px-1 font-semibold"
    />
  );
}

/** A stack's picture on its row: its result, or until then its cover. */
function RowPicture(p: { name: string; result: Blob | undefined; cover: Blob | undefined }) {
  const shape = "h-20 w-[120px] rounded-sm";
  if (!p.result && !p.cover)
    return <span className={`block ${shape} border border-dashed border-line`} />;
  return (
    <Picture
      blob={p.result ?? p.cover}
      alt={`${p.result ? "Result" : "Cover"} of ${p.name}`}
      className={`${shape} object-cover`}
    />
  );
}

/** How far a stack's merge is, in words. */
function MergeState({
  kind,
  result,
  running,
}: {
  kind: Stack["kind"];
  result: Result | undefined;
  running: string | undefined;
}) {
  if (running)
    return (
      <p role="status" className="text-quiet">
        {running}
      </p>
    );
  if (result)
    return (
      <>
        <p>Merged</p>
        <p className="text-[12px] text-quiet">
          {kind === "bracket" ? `${plainNumber(result.rangeEv)} EV, ` : ""}
          {plainNumber(result.residualPx, 2)} px
        </p>
      </>
    );
  const unmerged = kind === "single" ? "one frame" : "not merged";
  return (
    <>
      <p>Not merged yet</p>
      <p className="text-[12px] text-quiet">{isMerged(kind) ? "merges with M" : unmerged}</p>
    </>
  );
}
