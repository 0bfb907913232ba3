import { PARTS, type Part } from "../store/applySettings";
import type { ListedLook } from "../store/looks";
import type { Frame, Shoot, Stack } from "../store/records";
import type { BoardActions, FrameEdit } from "./BoardMenus";
import type { EditRequest } from "./editAction";
import type { Row } from "./filter";
import { rowMates } from "./rowMates";
import type { Writing } from "./StackRow";
import type { Selection } from "./useSelection";

interface Options {
  stacks: readonly Stack[];
  rows: readonly Row[];
  framesOf: (stack: string) => readonly Frame[];
  selection: Selection;
  send: (request: EditRequest) => void;
  merge: (stacks: readonly Stack[]) => void;
  /** goes where stacks are delivered; all of them if not given */
  deliver: (ids?: readonly string[]) => void;
  contactSheet: () => void;
  /** what is said of the stacks, as XMP files */
  writeSidecars: () => void;
  copied: Stack | undefined;
  looks: readonly ListedLook[];
  shoot: Shoot;
  onCopied: (stack: string) => void;
  onWrite: (written: { stack: string; what: Writing }) => void;
  onPeek: (peek: { stack: string; at: number }) => void;
  opened: ReadonlySet<string>;
  onOpened: (opened: ReadonlySet<string>) => void;
}

/** What else keys do that no menu has. */
export interface BoardEdits extends BoardActions {
  frameEdits: Record<FrameEdit, () => void>;
  toNeighbour: (by: 1 | -1) => void;
  toggleOpen: () => void;
}

/** Everything that can be done with what is selected, for menus and keys alike. */
export function useBoardEdits(options: Options): BoardEdits {
  const { stacks, rows, selection, send, copied, opened, onOpened } = options;
  const { current } = selection;
  const ids = selection.stacks.map((stack) => stack.id);
  const all = (request: (ids: string[]) => EditRequest): void => {
    if (ids.length) send(request(ids));
  };
  const frameEdits = frameEditsOf(options);
  const nested = stacks.filter((stack) => !stack.frameIds.length).map((stack) => stack.id);
  const allOpen = nested.every((id) => opened.has(id));
  const mates = current && rowMates(stacks, current, selection.cursor);
  return {
    selection: selection.stacks,
    frame: current?.frameIds.length ? (what) => frameEdits[what]() : undefined,
    frameEdits,
    selectAll: () => selection.selectRows(rows.map((row) => row.stack.id)),
    selectKind: () =>
      selection.selectRows(
        rows.filter((row) => row.stack.kind === current?.kind).map((row) => row.stack.id),
      ),
    selectRow:
      mates &&
      (() => {
        if (mates.stacks) selection.selectRows(mates.stacks);
        if (mates.frames) selection.pickFrames(mates.frames);
      }),
    merge: () => options.merge(selection.stacks),
    contactSheet: options.contactSheet,
    writeSidecars: options.writeSidecars,
    deliver: (which) => options.deliver(which === "all" ? undefined : ids),
    join: () => {
      const next = rows[selection.index + 1]?.stack;
      if (ids.length > 1) send({ intent: "join", stacks: ids });
      else if (current && next) send({ intent: "join", stacks: [current.id, next.id] });
    },
    nest: () => {
      if (ids.length > 1) send({ intent: "nest", stacks: ids });
    },
    unnest: () => {
      if (current && !current.frameIds.length) send({ intent: "unnest", stack: current.id });
    },
    setKind: (kind) => all((list) => ({ intent: "kind", stacks: list, kind })),
    cutIntoSets: (count) => all((list) => ({ intent: "sets", stacks: list, count })),
    rename: () => current && options.onWrite({ stack: current.id, what: "name" }),
    writeNote: () => current && options.onWrite({ stack: current.id, what: "note" }),
    markDone: () => {
      const done = !selection.stacks.every((stack) => stack.done);
      all((list) => ({ intent: "done", stacks: list, done }));
    },
    rate: (rating) => all((list) => ({ intent: "rating", stacks: list, rating })),
    setLabel: (label) => all((list) => ({ intent: "label", stacks: list, label })),
    copySettings: () => current && options.onCopied(current.id),
    copied,
    applySettings: (parts) => {
      const which: Part[] = parts === "all" ? [...PARTS] : [...parts];
      if (copied) all((list) => ({ intent: "layOn", from: copied.id, stacks: list, parts: which }));
    },
    looks: options.looks,
    usualLooks: options.shoot.looks,
    applyLook: (look, amount) => all((list) => ({ intent: "look", stacks: list, look, amount })),
    setUsualLook: (kind, look, amount) =>
      send({ intent: "usualLook", kind, ...(look ? { look } : {}), amount }),
    groupAgain: () => send({ intent: "group", which: "untouched" }),
    allOpen: nested.length ? allOpen : undefined,
    openAll: () => onOpened(new Set(allOpen ? [] : nested)),
    toNeighbour: (by) => {
      const to = rows[selection.index + by];
      if (!to || to.members.length || !selection.acted.length) return;
      send({ intent: "move", frames: selection.acted, to: to.stack.id });
      selection.pickFrames([]);
    },
    toggleOpen: () => {
      if (!current) return;
      const next = new Set(opened);
      if (!next.delete(current.id)) next.add(current.id);
      onOpened(next);
    },
  };
}

/** What can be done with the frame at the cursor, or with those picked. */
function frameEditsOf({
  selection,
  framesOf,
  send,
  onPeek,
}: Options): Record<FrameEdit, () => void> {
  const { current, cursor, acted } = selection;
  const frame = current && framesOf(current.id)[cursor];
  const within = (by: 1 | -1) => (): void => {
    const next = cursor + by;
    if (!current || acted.length !== 1 || next < 0 || next >= current.frameIds.length) return;
    send({ intent: "move", frames: acted, to: current.id, at: by > 0 ? next + 1 : next });
    selection.goToFrame(next, false);
  };
  const ofActed = (intent: "takeOut" | "leaveOut") => (): void => {
    if (!current || !acted.length) return;
    send({ intent, stack: current.id, frames: acted });
    if (intent === "takeOut") selection.pickFrames([]);
  };
  const ofFrame = (intent: "reference" | "cover") => (): void => {
    if (current && frame) send({ intent, stack: current.id, frame: frame.id });
  };
  return {
    cut: () => current && send({ intent: "cut", stack: current.id, before: cursor }),
    takeOut: ofActed("takeOut"),
    leaveOut: ofActed("leaveOut"),
    reference: () => {
      if (current?.frameIds.length) ofFrame("reference")();
    },
    cover: ofFrame("cover"),
    earlier: within(-1),
    later: within(1),
    peek: () => current && onPeek({ stack: current.id, at: cursor }),
  };
}
