import { useKeys } from "../ui/useKeys";
import type { BoardEdits } from "./useBoardEdits";
import type { Selection } from "./useSelection";

/** The keys of the board, as they are listed. */
export const BOARD_KEYS = [
  ["↑ ↓", "Row above, below; with Shift more rows"],
  ["← →", "Frame before, after; with Shift more frames"],
  ["Home, End", "First and last frame of the row; with Ctrl first and last row"],
  ["PageUp, PageDown", "Some rows up, down"],
  ["Enter", "Open the stack"],
  ["Space", "Peek at the frame, step with ← →"],
  ["M", "Merge what is selected"],
  ["Shift M", "Merge all stacks that are not merged yet"],
  ["X", "Cut before the frame"],
  ["C, Shift C", "Copy the stack's settings, apply them to the selected stacks"],
  ["J", "Join the selected stacks, or with the next"],
  ["O", "Take the frame out into its own stack"],
  ["L", "Leave the frame out of the merge, or use it again"],
  ["R", "Make the frame the reference"],
  ["V", "Make the frame the cover"],
  ["Alt ← →", "Move the frame within the stack"],
  ["Alt ↑ ↓", "Move the frame to the stack above, below"],
  ["Ctrl click, Shift click", "Select more rows or frames"],
  ["K", "Select the same kind"],
  ["W", "Select the same row of a panorama"],
  ["Ctrl A", "Select all"],
  ["Esc", "Select only this row"],
  ["N, U", "Nest, un-nest"],
  ["T", "Open or close a nested stack"],
  ["0 to 5", "Rate"],
  ["D", "Done"],
  ["Shift D", "Deliver what is selected"],
  ["G", "Group again"],
  ["H", "Rows in the next height"],
  ["F2, Shift F2", "Name the stack, write a note"],
  ["Ctrl Z", "Undo"],
  ["Ctrl Shift Z", "Redo"],
] as const;

/** PageUp and PageDown go so many rows. */
const PAGE_ROWS = 5;

interface Options {
  rows: number;
  selection: Selection;
  edits: BoardEdits;
  open: () => void;
  mergeAll: () => void;
  nextHeight: () => void;
}

/** Listens to the keys of the board. */
export function useBoardKeys({
  rows,
  selection,
  edits,
  open,
  mergeAll,
  nextHeight,
}: Options): void {
  const { index, cursor } = selection;
  const row =
    (to: number, more = false) =>
    () =>
      selection.goToRow(to, more);
  const frame =
    (to: number, more = false) =>
    () =>
      selection.goToFrame(to, more);
  useKeys({
    ArrowDown: row(index + 1),
    ArrowUp: row(index - 1),
    "Shift+ArrowDown": row(index + 1, true),
    "Shift+ArrowUp": row(index - 1, true),
    PageDown: row(index + PAGE_ROWS),
    PageUp: row(index - PAGE_ROWS),
    "Ctrl+Home": row(0),
    "Ctrl+End": row(rows - 1),
    ArrowLeft: frame(cursor - 1),
    ArrowRight: frame(cursor + 1),
    "Shift+ArrowRight": frame(cursor + 1, true),
    "Shift+ArrowLeft": frame(cursor - 1, true),
    Home: frame(0),
    End: frame(Infinity),
    "Alt+ArrowLeft": edits.frameEdits.earlier,
    "Alt+ArrowRight": edits.frameEdits.later,
    "Alt+ArrowUp": () => edits.toNeighbour(-1),
    "Alt+ArrowDown": () => edits.toNeighbour(1),
    Enter: open,
    " ": edits.frameEdits.peek,
    m: (e) => (e.shiftKey ? mergeAll() : edits.merge()),
    F2: edits.rename,
    "Shift+F2": edits.writeNote,
    Escape: selection.clear,
    c: (e) => (e.shiftKey ? edits.applySettings("all") : edits.copySettings()),
    "Ctrl+a": edits.selectAll,
    k: edits.selectKind,
    w: () => edits.selectRow?.(),
    g: edits.groupAgain,
    h: nextHeight,
    t: edits.toggleOpen,
    x: edits.frameEdits.cut,
    j: edits.join,
    o: edits.frameEdits.takeOut,
    l: edits.frameEdits.leaveOut,
    r: edits.frameEdits.reference,
    v: edits.frameEdits.cover,
    n: edits.nest,
    u: edits.unnest,
    d: (e) => (e.shiftKey ? edits.deliver("selected") : edits.markDone()),
    ...Object.fromEntries(
      [0, 1, 2, 3, 4, 5].map((rating) => [String(rating), () => edits.rate(rating)]),
    ),
  });
}
