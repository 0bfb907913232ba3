import { useKeys } from "../ui/useKeys";
import type { BoardEdits } from "./useBoardEdits";
import type { Selection } from "./useSelection";

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
