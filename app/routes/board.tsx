import { useEffect, useMemo, useRef, useState } from "react";
import { useFetcher, useNavigate, useRevalidator } from "react-router";
import { useStore } from "zustand";
import { isMerged } from "../../pipeline/recipe/kinds";
import { BoardBar } from "../board/BoardBar";
import { BoardNotice } from "../board/BoardNotice";
import { BoardGrid, type Dropped } from "../board/BoardGrid";
import { runBoardEdit, type EditOutcome, type EditRequest } from "../board/editAction";
import { ContactSheetDialog } from "../contactSheet/ContactSheetDialog";
import { sheetEntry } from "../contactSheet/entries";
import { deliverAddress } from "../deliver/address";
import { NO_FILTER, rowsOf, type BoardFilter } from "../board/filter";
import { Peek } from "../board/Peek";
import { keepRowHeight, readRowHeight, ROW_HEIGHT_NAMES, type RowHeight } from "../board/rowHeight";
import type { RowHandlers, Writing } from "../board/StackRow";
import { Timeline } from "../board/Timeline";
import { useBoardEdits } from "../board/useBoardEdits";
import { useBoardKeys } from "../board/useBoardKeys";
import { useSelection } from "../board/useSelection";
import { BringInButtons, BringInPanel } from "../shelf/BringInPanel";
import { ClosedFolders } from "../shelf/ClosedFolders";
import { DropArea } from "../shelf/DropArea";
import { useBringIn } from "../shelf/useBringIn";
import { historyOf } from "../store/changes";
import { readLooks } from "../store/looks";
import type { Frame, Stack } from "../store/records";
import { readBoard, type BoardData } from "../store/shoots";
import { Button } from "../ui/Button";
import { counted } from "../ui/format";
import { History } from "../ui/History";
import { TopBar } from "../ui/TopBar";
import { startJob, tray as trayStore, type Job } from "../work/jobs";
import { mergeInBackground } from "../work/stackWork";
import { writeSidecars } from "../work/writeSidecars";
import type { Route } from "./+types/board";

export async function clientLoader({ params }: Route.ClientLoaderArgs) {
  const [board, history, { looks }] = await Promise.all([
    readBoard(params.shoot),
    historyOf(params.shoot),
    readLooks(),
  ]);
  return { board, history, looks };
}

export const clientAction = async ({ request, params }: Route.ClientActionArgs) =>
  runBoardEdit(params.shoot, await request.json().catch(() => undefined));

/** A shoot's stacks, one a row, in the order they were taken. */
export default function Board({ loaderData: { board, history, looks } }: Route.ComponentProps) {
  const { shoot, stacks, loose } = board;
  const work = useBringIn(shoot.id);
  const navigate = useNavigate();
  const fetcher = useFetcher<EditOutcome>();
  const send = (request: EditRequest): void => {
    void fetcher.submit(request as never, { method: "post", encType: "application/json" });
  };
  const [filter, setFilter] = useState<BoardFilter>(NO_FILTER);
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  const [written, setWritten] = useState<{ stack: string; what: Writing }>();
  const [peek, setPeek] = useState<{ stack: string; at: number }>();
  const [copiedId, setCopied] = useState<string>();
  const [isSheet, setSheet] = useState(false);
  const [height, setHeight] = useRowHeight();
  const rows = useMemo(
    () => rowsOf(stacks, board.results, filter, opened),
    [stacks, board.results, filter, opened],
  );
  const frames = useFramesOf(board);
  const selection = useSelection(rows, (stack) => frames.of(stack.id).map((frame) => frame.id));
  const { merge, unmerged, jobOf } = useMerges(board);
  const isBusy = work.state !== undefined && !work.state.finished;
  useGroupingOfLoose(loose > 0 && !isBusy, send);
  const edits = useBoardEdits({
    stacks,
    rows,
    framesOf: frames.of,
    selection,
    send,
    merge,
    contactSheet: () => setSheet(true),
    writeSidecars: () =>
      void startJob(
        `XMP files of ${shoot.name}`,
        () => writeSidecars(shoot, board.frames, stacks),
        { kind: "delivery", shoot: shoot.id },
      ),
    deliver: (ids) => void navigate(deliverAddress(shoot.id, ids)),
    copied: stacks.find((stack) => stack.id === copiedId),
    looks,
    shoot,
    onCopied: setCopied,
    onWrite: setWritten,
    onPeek: setPeek,
    opened,
    onOpened: setOpened,
  });
  useBoardKeys({
    rows: rows.length,
    selection,
    edits,
    open: () => {
      if (selection.current) void navigate(`/shoots/${shoot.id}/${selection.current.id}`);
    },
    mergeAll: () => merge(unmerged),
    nextHeight: () => {
      const next = ROW_HEIGHT_NAMES.indexOf(height) + 1;
      setHeight(ROW_HEIGHT_NAMES[next % ROW_HEIGHT_NAMES.length]!);
    },
  });
  const on = useStableHandlers<RowHandlers>({
    select: selection.clickRow,
    pick: selection.clickFrame,
    peek: (stack, at) => setPeek({ stack, at }),
    toggle: (id) => {
      const next = new Set(opened);
      if (!next.delete(id)) next.add(id);
      setOpened(next);
    },
    markDone: (stack, done) => send({ intent: "done", stacks: [stack], done }),
    rename: (stack, name) => {
      setWritten(undefined);
      if (name !== undefined) send({ intent: "name", stack, name });
    },
    writeNote: (stack, note) => {
      setWritten(undefined);
      if (note !== undefined) send({ intent: "note", stack, note });
    },
  });
  const drop = ({ frame, stack, before }: Dropped): void => {
    const to = stacks.find((s) => (stack ? s.id === stack : s.frameIds.includes(before!)));
    if (to)
      send({
        intent: "move",
        frames: selection.picked.has(frame) ? [...selection.picked] : [frame],
        to: to.id,
        ...(before ? { at: to.frameIds.indexOf(before) } : {}),
      });
    selection.pickFrames([]);
  };
  const counts = `${counted(board.frames.length, "frame")} in ${counted(stacks.length, "stack")}`;
  const peeked = peek && frames.of(peek.stack);
  return (
    <DropArea onFiles={(files) => void work.start(files)}>
      <TopBar
        screen="board"
        path={[{ text: "Shoots", to: "/shoots" }, { text: shoot.name }]}
        middle={fetcher.data?.done ? `${counts}. ${fetcher.data.done}` : counts}
      >
        <BringInButtons busy={isBusy} onFiles={(files) => void work.start(files)} />
        <History state={history} />
        <Button
          variant="accent"
          disabled={!unmerged.length}
          onClick={() => merge(unmerged)}
          hint="Merges every stack that is not merged yet, in the background (Shift M)"
        >
          Merge {counted(unmerged.length, "stack")}
        </Button>
      </TopBar>
      <BringInPanel work={work} />
      <ClosedFolders folders={board.closed} />
      <BoardNotice failed={fetcher.data?.failed} bad={board.bad} />
      <main className="flex min-h-0 grow flex-col">
        {stacks.length > 0 && (
          <>
            <Timeline
              sets={frames.sets}
              selected={selection.current?.id}
              onSelect={(id) => {
                const parent = stacks.find((stack) => stack.id === id)?.parentId;
                if (parent) setOpened(new Set([...opened, parent]));
                selection.goToStack(id);
              }}
            />
            <BoardBar
              filter={filter}
              onFilter={setFilter}
              shown={rows.filter((row) => !row.depth).length}
              all={stacks.filter((stack) => !stack.parentId).length}
              height={height}
              onHeight={setHeight}
              actions={edits}
            />
          </>
        )}
        {rows.length ? (
          <BoardGrid
            rows={rows}
            board={board}
            framesOf={frames.of}
            selection={selection}
            height={height}
            written={written}
            jobOf={jobOf}
            isUnsaved={fetcher.state !== "idle"}
            on={on}
            onDrop={drop}
          />
        ) : (
          <Nothing
            isFiltered={stacks.length > 0}
            isComing={isBusy || loose > 0}
            onAll={() => setFilter(NO_FILTER)}
          />
        )}
      </main>
      <ContactSheetDialog
        open={isSheet}
        onClose={() => setSheet(false)}
        title={shoot.name}
        shoot={shoot.id}
        count={rows.length}
        entries={() => rows.map(({ stack }) => entryOf(board, stack, frames.of(stack.id)))}
      />
      {peek && peeked && peeked.length > 0 && (
        <Peek
          frames={[...peeked]}
          thumbnails={board.thumbnails}
          at={Math.min(peek.at, peeked.length - 1)}
          onAt={(at) => {
            setPeek({ ...peek, at });
            selection.goToFrame(at, false);
          }}
          onClose={() => setPeek(undefined)}
        />
      )}
    </DropArea>
  );
}

/** A stack on a contact sheet. */
function entryOf(board: BoardData, stack: Stack, frames: readonly Frame[]) {
  const cover = frames.find(({ id }) => id === stack.coverId) ?? frames[frames.length >> 1];
  const thumbnail = board.thumbnails.get(cover?.hash ?? "");
  return sheetEntry(stack, frames, board.results.get(stack.id), thumbnail);
}

/** Why no row is shown, and what to do. */
function Nothing({
  isFiltered,
  isComing,
  onAll,
}: {
  isFiltered: boolean;
  isComing: boolean;
  onAll: () => void;
}) {
  const empty = isComing
    ? "The first stacks appear as soon as frames are in."
    : "This shoot has no frames. Drop some anywhere on this page.";
  return (
    <div className="grid grow place-items-center">
      <p className="text-quiet">
        {isFiltered ? "No stack is like that. " : empty}
        {isFiltered && (
          <Button variant="plain" onClick={onAll}>
            Show all
          </Button>
        )}
      </p>
    </div>
  );
}

/** The frames of each stack, those of its members for a nested one, and sets for the timeline. */
function useFramesOf({ stacks, frames }: BoardData): {
  of: (stack: string) => readonly Frame[];
  sets: { id: string; frames: Frame[] }[];
} {
  return useMemo(() => {
    const byId = new Map(frames.map((frame) => [frame.id, frame]));
    const idsOf = (stack: Stack): readonly string[] =>
      stack.frameIds.length
        ? stack.frameIds
        : stacks.filter((m) => m.parentId === stack.id).flatMap((m) => m.frameIds);
    const all = new Map(
      stacks.map((stack) => [stack.id, idsOf(stack).flatMap((id) => byId.get(id) ?? [])]),
    );
    return {
      of: (stack) => all.get(stack) ?? [],
      sets: stacks
        .filter((stack) => stack.frameIds.length)
        .sort((a, b) => a.order - b.order)
        .map(({ id }) => ({ id, frames: all.get(id)! })),
    };
  }, [stacks, frames]);
}

/** Merges in the background: what has none yet, and what waits or runs. */
function useMerges({ shoot, stacks, results }: BoardData): {
  merge: (stacks: readonly Stack[]) => void;
  unmerged: Stack[];
  jobOf: (stack: string) => Job | undefined;
} {
  const { jobs } = useStore(trayStore);
  const { revalidate } = useRevalidator();
  const isParent = new Set(stacks.flatMap((stack) => stack.parentId ?? []));
  const isMergeable = ({ id, kind, frameIds }: Stack): boolean =>
    isMerged(kind) && (frameIds.length > 0 || isParent.has(id));
  const jobOf = (stack: string): Job | undefined =>
    jobs.find(
      ({ kind, about, state }) =>
        kind === "merge" && about === stack && (state === "running" || state === "waiting"),
    );
  return {
    merge: (many) => {
      for (const stack of many)
        if (isMergeable(stack) && !jobOf(stack.id))
          mergeInBackground(shoot.id, stack.id, stack.name, () => void revalidate());
    },
    unmerged: stacks.filter((stack) => isMergeable(stack) && !results.has(stack.id)),
    jobOf,
  };
}

/** Frames that came in before the page was closed have no stack yet: they are grouped once. */
function useGroupingOfLoose(isDue: boolean, send: (request: EditRequest) => void): void {
  const isDone = useRef(false);
  useEffect(() => {
    if (!isDue || isDone.current) return;
    isDone.current = true;
    send({ intent: "group", which: "loose" });
  });
}

/** The height of the rows, kept for the next visit. */
function useRowHeight(): [RowHeight, (height: RowHeight) => void] {
  const [height, setHeight] = useState(readRowHeight);
  return [
    height,
    (to) => {
      setHeight(to);
      keepRowHeight(to);
    },
  ];
}

/** Handlers that are the same functions for good, whatever they do by now. */
function useStableHandlers<T extends object>(handlers: T): T {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  const [stable] = useState(
    () =>
      Object.fromEntries(
        Object.keys(handlers).map((name) => [
          name,
          (...args: unknown[]) =>
            (latest.current[name as keyof T] as (...args: unknown[]) => unknown)(...args),
        ]),
      ) as T,
  );
  return stable;
}
