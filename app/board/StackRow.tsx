import { useDndContext, useDroppable } from "@dnd-kit/core";
import { memo, useCallback } from "react";
import { Link } from "react-router";
import { isMerged } from "../../pipeline/recipe/kinds";
import type { Frame, Result, Stack } from "../store/records";
import { Checkbox } from "../ui/Checkbox";
import { plainNumber, signed } from "../ui/format";
import { Picture } from "../ui/Picture";
import { relativeEvs } from "./exposures";
import type { Row } from "./filter";
import { FrameThumb, type Click } from "./FrameThumb";
import { ROW_HEIGHTS, type RowHeight } from "./rowHeight";
import { WordField } from "../ui/WordField";

const WORDS = { bracket: "Bracket", panorama: "Panorama", focus: "Focus", single: "Single" };
const NONE_PICKED: ReadonlySet<string> = new Set();

/** What a row hands on; the same object for all rows and for good. */
export interface RowHandlers {
  select: (stack: string, click: Click) => void;
  pick: (stack: string, frame: number, click: Click) => void;
  peek: (stack: string, frame: number) => void;
  toggle: (stack: string) => void;
  markDone: (stack: string, done: boolean) => void;
  rename: (stack: string, name: string | undefined) => void;
  writeNote: (stack: string, note: string | undefined) => void;
}

/** What of a row is written at the moment. */
export type Writing = "name" | "note" | undefined;

interface Props {
  row: Row;
  /** counted from 1 */
  place: number;
  frames: readonly Frame[];
  thumbnails: ReadonlyMap<string, Blob>;
  result: Result | undefined;
  /** where it has several takes: how many, and which is delivered */
  takes: string | undefined;
  leftOut: readonly string[];
  reference: number | undefined;
  isSelected: boolean;
  isCurrent: boolean;
  /** the frame the keys act on */
  cursor: number | undefined;
  picked?: ReadonlySet<string>;
  to: string;
  height: RowHeight;
  writing: Writing;
  /** how far its merge is */
  running: string | undefined;
  on: RowHandlers;
}

/**
 * One stack: what it is and why, its frames standing on the ladder of their kind, its result at the
 * end.
 */
export const StackRow = memo(function StackRow(props: Props) {
  const { row, place, isSelected, isCurrent, height, on } = props;
  const { stack, depth } = row;
  const { active, over } = useDndContext();
  const isOver = over?.id === dropId(stack.id);
  return (
    <div
      role="row"
      aria-rowindex={place}
      aria-selected={isSelected}
      aria-current={isCurrent}
      onClick={(e) => on.select(stack.id, e)}
      style={{ height: ROW_HEIGHTS[height].row }}
      className={`relative flex items-center border-b border-line pr-4 ${depth ? "pl-10" : "pl-4"} ${isSelected ? "bg-panel" : ""} ${isOver ? "outline-2 -outline-offset-2 outline-accent" : ""}`}
    >
      {active && !row.members.length && <DropRow stack={stack.id} />}
      {isCurrent && <span aria-hidden className="absolute inset-y-0 left-0 w-[3px] bg-accent" />}
      <StackWords {...props} />
      <Frames {...props} />
      <Outcome {...props} />
    </div>
  );
});

const dropId = (stack: string): string => `stack ${stack}`;

/** Frames are dropped into the stack; there only while something is dragged. */
function DropRow({ stack }: { stack: string }) {
  const { setNodeRef } = useDroppable({ id: dropId(stack), data: { stack } });
  return <span ref={setNodeRef} aria-hidden className="absolute inset-0" />;
}

/** What the stack is called, why it is one, and what is odd about it. */
function StackWords({ row, result, to, writing, height, on }: Props) {
  const { stack, members, depth, open } = row;
  return (
    <div
      role="gridcell"
      className={`flex shrink-0 items-center gap-3 ${depth ? "w-61 max-lg:w-41" : "w-67 max-lg:w-47"}`}
    >
      <MergedMark isMerged={result !== undefined} isSingle={stack.kind === "single"} />
      <div className="min-w-0 grow">
        <div className="flex items-center gap-1">
          {members.length > 0 && (
            <button
              type="button"
              tabIndex={-1}
              aria-expanded={open}
              aria-label={open ? "Close the nested stack" : "Open the nested stack"}
              onClick={(e) => {
                e.stopPropagation();
                on.toggle(stack.id);
              }}
              className="size-6 shrink-0 rounded text-quiet hover:text-ink pointer-coarse:size-10"
            >
              {open ? "▾" : "▸"}
            </button>
          )}
          {writing === "name" ? (
            <WordField
              name="Name of the stack"
              text={stack.name}
              longest={120}
              onWritten={(text) => on.rename(stack.id, text)}
            />
          ) : (
            <Link
              to={to}
              tabIndex={-1}
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
        {(height !== "low" || writing === "note") && <Marks {...{ stack, writing, on }} />}
      </div>
    </div>
  );
}

/** Rating, label and note. */
function Marks({ stack, writing, on }: Pick<Props, "writing" | "on"> & { stack: Stack }) {
  if (writing === "note")
    return (
      <WordField
        name="Note"
        text={stack.note}
        longest={2000}
        mayBeEmpty
        onWritten={(text) => on.writeNote(stack.id, text)}
      />
    );
  return (
    <p className="flex gap-2 truncate text-[12px] text-quiet">
      {stack.rating > 0 && (
        <span role="img" aria-label={`Rating ${stack.rating} of 5`}>
          {"★".repeat(stack.rating)}
        </span>
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
  );
}

/** How far a frame stands from the middle of its row, in shares of the frame's height. */
function riseOf(kind: Stack["kind"], i: number, frames: number, ev: number): number {
  switch (kind) {
    case "bracket":
      return -0.35 * ev;
    case "focus":
      return 0.29 - (0.58 * i) / Math.max(1, frames - 1);
    case "panorama":
      return i % 2 ? 0.08 : -0.08;
    default:
      return 0;
  }
}

const captionOf = (ev: number | undefined): string => (ev === undefined ? "–" : signed(ev));

/** The frames on the ladder of their kind: exposures as stairs, overlapping plates, or a ramp. */
function Frames(props: Props) {
  const { row, frames, thumbnails, leftOut, reference, cursor, picked = NONE_PICKED } = props;
  const { height, on } = props;
  const { id, kind } = row.stack;
  const click = useCallback((i: number, e: Click) => on.pick(id, i, e), [on, id]);
  const open = useCallback((i: number) => on.peek(id, i), [on, id]);
  const evs = relativeEvs(frames);
  const reach = Math.max(1, ...evs.map((ev) => Math.abs(ev ?? 0)));
  const size = ROW_HEIGHTS[height].frame;
  return (
    <div
      className="flex h-full min-w-0 grow items-center overflow-x-auto overflow-y-hidden px-1"
      style={{ gap: kind === "panorama" ? 0 : 8 }}
    >
      {frames.map((frame, i) => (
        <FrameThumb
          key={frame.id}
          frame={frame}
          index={i}
          blob={thumbnails.get(frame.hash)}
          rise={size[1] * riseOf(kind, i, frames.length, (evs[i] ?? 0) / reach)}
          overlaps={kind === "panorama" && i > 0}
          isNarrow={frames.length > 9 && kind !== "bracket"}
          size={size}
          caption={kind === "bracket" ? captionOf(evs[i]) : String(i + 1)}
          isLeftOut={leftOut.includes(frame.id)}
          isReference={reference === i && kind === "bracket"}
          isCursor={cursor === i}
          isPicked={picked.has(frame.id)}
          onClick={click}
          onOpen={open}
        />
      ))}
    </div>
  );
}

/** The stack's picture, its result or until then its cover, and how far its merge is. */
function Outcome(props: Props) {
  const { row, frames, thumbnails, result, takes, to, height, running, on } = props;
  const { stack } = row;
  const cover = stack.coverId && frames.find((frame) => frame.id === stack.coverId);
  const blob = result?.picture ?? (cover ? thumbnails.get(cover.hash) : undefined);
  const [width, tall] = ROW_HEIGHTS[height].result;
  return (
    <div role="gridcell" className="flex shrink-0 items-center">
      <Link to={to} tabIndex={-1} aria-hidden className="ml-4">
        {blob ? (
          <Picture
            blob={blob}
            alt={`${result ? "Result" : "Cover"} of ${stack.name}`}
            className="rounded-sm object-contain"
            style={{ width, height: tall }}
          />
        ) : (
          <span
            className="block rounded-sm border border-dashed border-line"
            style={{ width, height: tall }}
          />
        )}
      </Link>
      <div className="ml-4 w-32">
        <MergeState kind={stack.kind} result={result} running={running} />
        {takes && (
          <p className="truncate text-[12px] text-quiet" title={takes}>
            {takes}
          </p>
        )}
        <label
          className="flex h-6 items-center gap-1.5 text-[12px] text-quiet"
          onClick={(e) => e.stopPropagation()}
        >
          <Checkbox
            isTabStop={false}
            checked={stack.done}
            onChange={(done) => on.markDone(stack.id, done)}
          />
          Done
        </label>
      </div>
    </div>
  );
}

function MergedMark({ isMerged: done, isSingle }: { isMerged: boolean; isSingle: boolean }) {
  return (
    <svg
      viewBox="0 0 12 12"
      role="img"
      aria-label={done ? "Merged" : "Not merged yet"}
      className="size-3 shrink-0 text-quiet"
    >
      {isSingle ? (
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
