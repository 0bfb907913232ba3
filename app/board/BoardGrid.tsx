import { DndContext, type DragEndEvent } from "@dnd-kit/core";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import type { Frame } from "../store/records";
import type { BoardData } from "../store/shoots";
import { useDragSensors } from "../ui/useDragSensors";
import type { Job } from "../work/jobs";
import type { Row } from "./filter";
import { referencePlace } from "./referencePlace";
import { ROW_HEIGHTS, type RowHeight } from "./rowHeight";
import { StackRow, type RowHandlers, type Writing } from "./StackRow";
import type { Selection } from "./useSelection";

/** Rows beyond those seen that are there already. */
const OVERSCAN = 6;
const NOTHING_LEFT_OUT: readonly string[] = [];

/** Frames that were dropped: into a stack, or before one of its frames. */
export interface Dropped {
  frame: string;
  stack?: string;
  before?: string;
}

interface Props {
  rows: readonly Row[];
  board: BoardData;
  framesOf: (stack: string) => readonly Frame[];
  selection: Selection;
  height: RowHeight;
  /** the stack whose name or note is being written */
  written: { stack: string; what: Writing } | undefined;
  /** the merge of a stack that waits or runs */
  jobOf: (stack: string) => Job | undefined;
  isUnsaved: boolean;
  on: RowHandlers;
  onDrop: (dropped: Dropped) => void;
}

const runningText = ({ state, doing, share }: Job): string =>
  state === "waiting" ? "Waiting" : `${doing}, ${Math.round(share * 100)} %`;

/** One row per stack; only those seen are there. */
export function BoardGrid(props: Props) {
  const { rows, selection, height, isUnsaved, onDrop } = props;
  const list = useRef<HTMLDivElement>(null);
  const rowHeight = ROW_HEIGHTS[height].row;
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => list.current,
    estimateSize: () => rowHeight,
    overscan: OVERSCAN,
    getItemKey: (i) => rows[i]!.stack.id,
  });
  const { index, cursor } = selection;
  useEffect(() => virtual.measure(), [virtual, rowHeight]);
  useEffect(() => {
    if (rows.length) virtual.scrollToIndex(index, { align: "auto" });
  }, [virtual, index, rows.length, rowHeight]);
  useRovingFocus(list, index, cursor);
  const sensors = useDragSensors();
  const drop = ({ active, over }: DragEndEvent): void => {
    const frame = (active.data.current as { frame?: string } | undefined)?.frame;
    const target = over?.data.current as { stack?: string; before?: string } | undefined;
    if (frame && target) onDrop({ frame, ...target });
  };
  return (
    <DndContext sensors={sensors} onDragEnd={drop}>
      <div
        ref={list}
        role="grid"
        aria-label="Stacks"
        aria-rowcount={rows.length}
        aria-multiselectable
        data-unsaved={isUnsaved ? "" : undefined}
        className="min-h-0 grow overflow-auto"
      >
        <div style={{ height: virtual.getTotalSize() }} className="relative">
          {virtual.getVirtualItems().map(({ key, index: i, start }) => (
            <div
              key={key}
              role="presentation"
              className="absolute inset-x-0"
              style={{ top: start }}
            >
              <BoardRow index={i} {...props} />
            </div>
          ))}
        </div>
      </div>
    </DndContext>
  );
}

/** The row at a place, with what the board knows of its stack. */
function BoardRow(props: Props & { index: number }) {
  const { index, rows, board, framesOf, selection, height, written, jobOf, on } = props;
  const row = rows[index]!;
  const { id, takeId } = row.stack;
  const frames = framesOf(id);
  const take = board.takes.get(takeId);
  const recipe = take?.recipe;
  const count = board.takesOf.get(id) ?? 1;
  const isCurrent = id === selection.current?.id;
  const job = jobOf(id);
  return (
    <StackRow
      row={row}
      place={index + 1}
      frames={frames}
      thumbnails={board.thumbnails}
      result={board.results.get(id)}
      takes={take && count > 1 ? `${count} takes: ${take.name}` : undefined}
      leftOut={recipe?.frames.leftOut ?? NOTHING_LEFT_OUT}
      reference={referencePlace(frames, recipe)}
      isSelected={selection.stacks.some((stack) => stack.id === id)}
      isCurrent={isCurrent}
      cursor={isCurrent ? selection.cursor : undefined}
      {...(isCurrent ? { picked: selection.picked } : {})}
      to={`/shoots/${board.shoot.id}/${id}`}
      height={height}
      writing={written?.stack === id ? written.what : undefined}
      running={job && runningText(job)}
      on={on}
    />
  );
}

/**
 * One tab stop for all rows: the frame that the keys act on. Where the focus is in the grid, it
 * follows the keys.
 */
function useRovingFocus(
  list: React.RefObject<HTMLDivElement | null>,
  index: number,
  cursor: number,
): void {
  useEffect(() => {
    const grid = list.current!;
    const focused = document.activeElement;
    if (!grid.contains(focused) || focused?.matches("input")) return;
    grid.querySelector<HTMLElement>("[data-cursor]")?.focus({ preventScroll: true });
  }, [list, index, cursor]);
}
