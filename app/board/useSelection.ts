import { useState } from "react";
import { clamp } from "../../core/math/clamp";
import type { Stack } from "../store/records";
import type { Row } from "./filter";
import type { Click } from "./FrameThumb";

/** What is selected on the board: rows, one of them the current one, and frames of that. */
export interface Selection {
  /** place of the current row among those shown */
  index: number;
  current: Stack | undefined;
  /** the current stack and those selected with it, as they stand */
  stacks: Stack[];
  /** the frame the keys act on, by its place in the current stack */
  cursor: number;
  picked: ReadonlySet<string>;
  /** frames of the current stack that an edit is about: those picked, or the one at the cursor */
  acted: string[];
  goToRow: (index: number, more: boolean) => void;
  goToStack: (stack: string) => void;
  goToFrame: (cursor: number, more: boolean) => void;
  clickRow: (stack: string, click: Click) => void;
  clickFrame: (stack: string, cursor: number, click: Click) => void;
  selectRows: (stacks: Iterable<string>) => void;
  pickFrames: (frames: Iterable<string>) => void;
  /** only the current row, no picked frames */
  clear: () => void;
}

const NONE: ReadonlySet<string> = new Set();

function toggled(set: ReadonlySet<string>, value: string): Set<string> {
  const next = new Set(set);
  if (!next.delete(value)) next.add(value);
  return next;
}

/**
 * @param rows     those shown
 * @param framesOf ids of a stack's frames, in their order
 */
export function useSelection(
  rows: readonly Row[],
  framesOf: (stack: Stack) => readonly string[],
): Selection {
  const [at, setAt] = useState<string>();
  const [also, setAlso] = useState(NONE);
  const [wanted, setCursor] = useState(0);
  const [picked, setPicked] = useState(NONE);
  const index = Math.max(
    0,
    rows.findIndex((row) => row.stack.id === at),
  );
  const current = rows[index]?.stack;
  const own = current ? framesOf(current) : [];
  const cursor = clamp(wanted, 0, Math.max(0, own.length - 1));
  const stacks = rows
    .map((row) => row.stack)
    .filter((stack) => stack.id === current?.id || also.has(stack.id));
  const here = own[cursor];
  let acted: string[] = [];
  if (current?.frameIds.length && here)
    acted = picked.size ? current.frameIds.filter((id) => picked.has(id)) : [here];

  const stand = (stack: string): void => {
    setAt(stack);
    setCursor(0);
    setPicked(NONE);
  };
  return {
    index,
    current,
    stacks,
    cursor,
    picked,
    acted,
    goToRow: (to, more) => {
      const stack = rows[clamp(to, 0, rows.length - 1)]?.stack;
      if (!stack) return;
      setAlso(more && current ? new Set([...also, current.id, stack.id]) : NONE);
      setAt(stack.id);
      setPicked(NONE);
    },
    goToStack: (stack) => {
      setAlso(NONE);
      stand(stack);
    },
    goToFrame: (to, more) => {
      const next = clamp(to, 0, Math.max(0, own.length - 1));
      if (more && here && own[next]) setPicked(new Set([...picked, here, own[next]]));
      setCursor(next);
    },
    clickRow: (id, { shiftKey, ctrlKey, metaKey }) => {
      if (ctrlKey || metaKey) {
        const next = toggled(also, id);
        if (current) next.add(current.id);
        setAlso(next);
        return;
      }
      const clicked = rows.findIndex((row) => row.stack.id === id);
      const range = rows.slice(Math.min(index, clicked), Math.max(index, clicked) + 1);
      setAlso(shiftKey && current ? new Set(range.map((row) => row.stack.id)) : NONE);
      stand(id);
    },
    clickFrame: (id, to, { shiftKey, ctrlKey, metaKey }) => {
      if (current?.id !== id) {
        setAt(id);
        setAlso(NONE);
        setPicked(NONE);
      } else if (shiftKey)
        setPicked(new Set(own.slice(Math.min(cursor, to), Math.max(cursor, to) + 1)));
      else if (ctrlKey || metaKey) setPicked(toggled(picked, own[to]!));
      else setPicked(NONE);
      setCursor(to);
    },
    selectRows: (list) => setAlso(new Set(list)),
    pickFrames: (list) => setPicked(new Set(list)),
    clear: () => {
      setAlso(NONE);
      setPicked(NONE);
    },
  };
}
