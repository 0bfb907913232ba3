import { type Recipe } from "../../pipeline/recipe/recipe";
import { isMerged } from "../../pipeline/recipe/kinds";
import { DndContext, PointerSensor, useSensor, useSensors, type DragEndEvent } from "@dnd-kit/core";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import { useStore } from "zustand";
import { useFetcher, useNavigate, useRevalidator } from "react-router";
import { BoardBar, type FrameEdit } from "../board/BoardBar";
import { NO_FILTER, rowsOf, type BoardFilter } from "../board/filter";
import { runEdit, type EditRequest } from "../board/editAction";
import { Peek } from "../board/Peek";
import { rowMates } from "../board/rowMates";
import { ROW_HEIGHT, StackRow } from "../board/StackRow";
import { Timeline } from "../board/Timeline";
import { referenceOf } from "../../pipeline/merge/step";
import { BringInButtons, BringInPanel, DropArea } from "../shelf/BringInPanel";
import { useBringIn } from "../shelf/useBringIn";
import { historyOf, inTurn } from "../store/changes";
import { PARTS } from "../store/edit";
import { readBoard } from "../store/shoots";
import type { Frame, Stack } from "../store/records";
import { Button } from "../ui/Button";
import { History } from "../ui/History";
import { TopBar } from "../ui/TopBar";
import { useKeys } from "../ui/useKeys";
import { tray as trayStore } from "../work/jobs";
import { mergeInBackground, stackFrames } from "../work/stackWork";
import type { Route } from "./+types/board";
import { clamp } from "../../core/math/clamp";
import { counted } from "../ui/format";

const KEYS = [
  ["↑ ↓", "Row above, below; with Shift more rows"],
  ["← →", "Frame before, after"],
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
  ["G", "Group again"],
  ["F2", "Name the stack"],
  ["Ctrl Z", "Undo"],
  ["Ctrl Shift Z", "Redo"],
] as const;

export async function clientLoader({ params }: Route.ClientLoaderArgs) {
  return { board: await readBoard(params.shoot), history: await historyOf(params.shoot) };
}

export const clientAction = ({ request, params }: Route.ClientActionArgs) =>
  inTurn(async () => runEdit(params.shoot, await request.json()));

interface Click {
  shiftKey: boolean;
  ctrlKey: boolean;
  metaKey: boolean;
}

export default function Board({ loaderData: { board, history } }: Route.ComponentProps) {
  const { shoot, stacks, loose } = board;
  const work = useBringIn(shoot.id);
  const navigate = useNavigate();
  const fetcher = useFetcher<{ done?: string }>();
  const { revalidate } = useRevalidator();
  const tray = useStore(trayStore);
  const [filter, setFilter] = useState<BoardFilter>(NO_FILTER);
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  const [at, setAt] = useState<string>();
  const [also, setAlso] = useState<ReadonlySet<string>>(new Set());
  const [cursor, setCursor] = useState(0);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [naming, setNaming] = useState<string>();
  const [peek, setPeek] = useState<{ stack: string; at: number }>();
  const frames = useMemo(() => new Map(board.frames.map((f) => [f.id, f])), [board.frames]);
  const rows = useMemo(
    () => rowsOf(stacks, board.results, filter, opened),
    [stacks, board.results, filter, opened],
  );
  const framesOf = (s: Stack): Frame[] =>
    (s.frameIds.length
      ? s.frameIds
      : stacks.filter((m) => m.parentId === s.id).flatMap((m) => m.frameIds)
    ).flatMap((id) => frames.get(id) ?? []);
  const index = Math.max(
    0,
    rows.findIndex((r) => r.stack.id === at),
  );
  const current = rows[index]?.stack;
  const selection = rows.map((r) => r.stack).filter((s) => s.id === current?.id || also.has(s.id));
  const place = current ? Math.min(cursor, Math.max(0, framesOf(current).length - 1)) : 0;
  const frame = current && framesOf(current)[place];
  const isParent = new Set(stacks.flatMap((s) => s.parentId ?? []));
  const mergeable = (s: Stack): boolean =>
    isMerged(s.kind) && (s.frameIds.length > 0 || isParent.has(s.id));
  const fresh = stacks.filter((s) => mergeable(s) && !board.results.has(s.id));
  const busy = work.state !== undefined && !work.state.finished;

  const list = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => list.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 6,
    getItemKey: (i) => rows[i]!.stack.id,
  });
  useEffect(() => {
    if (rows.length) virtual.scrollToIndex(index, { align: "auto" });
  }, [index, rows.length]); // eslint-disable-line react-hooks/exhaustive-deps
  const empty =
    busy || loose
      ? "The first stacks appear as soon as frames are in."
      : "This shoot has no frames. Drop some anywhere on this page.";
  const [copiedId, setCopied] = useState<string>();
  const copied = stacks.find((s) => s.id === copiedId);
  const edit = (m: EditRequest): void => {
    void fetcher.submit(m as never, { method: "post", encType: "application/json" });
  };
  // frames that came in before the page was closed have no stack yet
  const edited = useRef(false);
  useEffect(() => {
    if (loose && !busy && !edited.current) {
      edited.current = true;
      edit({ intent: "group", which: "loose" });
    }
  });

  const merge = (many: Stack[]): void => {
    for (const s of many)
      if (
        mergeable(s) &&
        !tray.jobs.some(
          (j) =>
            j.kind === "merge" &&
            j.about === s.id &&
            (j.state === "waiting" || j.state === "running"),
        )
      )
        mergeInBackground(shoot.id, s.id, s.name, () => void revalidate());
  };
  const go = (to: number, more: boolean): void => {
    const s = rows[Math.max(0, Math.min(rows.length - 1, to))]?.stack;
    if (!s) return;
    setAlso((was) => (more ? new Set([...was, current!.id, s.id]) : new Set()));
    setAt(s.id);
    setCursor(0);
    setPicked(new Set());
  };
  const select = (s: Stack, e: Click): void => {
    if (e.shiftKey && current) {
      const b = rows.findIndex((r) => r.stack.id === s.id);
      setAlso(
        new Set(rows.slice(Math.min(index, b), Math.max(index, b) + 1).map((r) => r.stack.id)),
      );
    } else if (e.ctrlKey || e.metaKey) {
      setAlso((was) => {
        const next = new Set(was);
        if (current) next.add(current.id);
        if (next.has(s.id) && s.id !== current?.id) next.delete(s.id);
        else next.add(s.id);
        return next;
      });
      return;
    } else setAlso(new Set());
    setAt(s.id);
    setCursor(0);
    setPicked(new Set());
  };
  const pick = (s: Stack, i: number, e: Click): void => {
    const own = framesOf(s).map((f) => f.id);
    if (current?.id !== s.id) {
      setAt(s.id);
      setAlso(new Set());
      setPicked(new Set());
    } else if (e.shiftKey)
      setPicked(new Set(own.slice(Math.min(place, i), Math.max(place, i) + 1)));
    else if (e.ctrlKey || e.metaKey)
      setPicked((was) => {
        const next = new Set(was);
        if (next.has(own[i]!)) next.delete(own[i]!);
        else next.add(own[i]!);
        return next;
      });
    else setPicked(new Set());
    setCursor(i);
  };
  let acted: string[] = [];
  if (current?.frameIds.length && frame)
    acted = picked.size ? current.frameIds.filter((id) => picked.has(id)) : [frame.id];
  const toNeighbour = (by: number): void => {
    const to = rows[index + by]?.stack;
    if (to && !rows[index + by]!.members.length && acted.length) {
      edit({ intent: "move", frames: acted, to: to.id });
      setPicked(new Set());
    }
  };
  const within = (by: number): void => {
    if (current && acted.length === 1) {
      const next = place + by;
      if (next >= 0 && next < current.frameIds.length) {
        edit({ intent: "move", frames: acted, to: current.id, at: by > 0 ? next + 1 : next });
        setCursor(next);
      }
    }
  };
  const sameRow = (): void => {
    const likes = current && rowMates(stacks, current, place);
    if (likes?.stacks) setAlso(new Set(likes.stacks));
    if (likes?.frames) setPicked(new Set(likes.frames));
  };
  const selectAll = (): void => setAlso(new Set(rows.map((r) => r.stack.id)));
  const sameKind = (): void => {
    if (current)
      setAlso(new Set(rows.filter((r) => r.stack.kind === current.kind).map((r) => r.stack.id)));
  };
  const toggleOpen = (id: string): void =>
    setOpened((was) => {
      const next = new Set(was);
      if (next.has(id)) next.delete(id);
      else next.add(id);
      return next;
    });
  const ids = selection.map((s) => s.id);
  const step = (by: number): void => {
    if (current) setCursor(clamp(place + by, 0, framesOf(current).length - 1));
  };
  const onFrameOf: Record<FrameEdit, () => void> = {
    cut: () => current && edit({ intent: "cut", stack: current.id, before: place }),
    takeOut: () => {
      if (current && acted.length) {
        edit({ intent: "takeOut", stack: current.id, frames: acted });
        setPicked(new Set());
      }
    },
    leaveOut: () =>
      current && acted.length && edit({ intent: "leaveOut", stack: current.id, frames: acted }),
    reference: () =>
      current?.frameIds.length &&
      frame &&
      edit({ intent: "reference", stack: current.id, frame: frame.id }),
    cover: () => current && frame && edit({ intent: "cover", stack: current.id, frame: frame.id }),
    earlier: () => within(-1),
    later: () => within(1),
  };
  const rate = (rating: number): void => {
    if (ids.length) edit({ intent: "rating", stacks: ids, rating });
  };
  useKeys({
    ArrowDown: () => go(index + 1, false),
    ArrowUp: () => go(index - 1, false),
    "Shift+ArrowDown": () => go(index + 1, true),
    "Shift+ArrowUp": () => go(index - 1, true),
    ArrowLeft: () => step(-1),
    ArrowRight: () => step(1),
    "Shift+ArrowRight": () => {
      if (current && frame) {
        const n = framesOf(current)[place + 1];
        if (n) setPicked((was) => new Set([...was, frame.id, n.id]));
        step(1);
      }
    },
    "Shift+ArrowLeft": () => {
      if (current && frame) {
        const n = framesOf(current)[place - 1];
        if (n) setPicked((was) => new Set([...was, frame.id, n.id]));
        step(-1);
      }
    },
    "Alt+ArrowLeft": onFrameOf.earlier,
    "Alt+ArrowRight": onFrameOf.later,
    "Alt+ArrowUp": () => toNeighbour(-1),
    "Alt+ArrowDown": () => toNeighbour(1),
    Enter: () => current && void navigate(`/shoots/${shoot.id}/${current.id}`),
    " ": () => current && setPeek({ stack: current.id, at: place }),
    m: (e) => merge(e.shiftKey ? fresh : selection),
    F2: () => setNaming(current?.id),
    Escape: () => {
      setAlso(new Set());
      setPicked(new Set());
    },
    c: (e) => {
      if (!e.shiftKey) setCopied(current?.id);
      else if (copied && ids.length)
        edit({ intent: "layOn", from: copied.id, stacks: ids, parts: [...PARTS] });
    },
    "Ctrl+a": selectAll,
    k: sameKind,
    w: sameRow,
    g: () => edit({ intent: "group", which: "untouched" }),
    t: () => current && toggleOpen(current.id),
    x: onFrameOf.cut,
    j: () => {
      const next = rows[index + 1]?.stack;
      if (ids.length > 1) edit({ intent: "join", stacks: ids });
      else if (current && next) edit({ intent: "join", stacks: [current.id, next.id] });
    },
    o: onFrameOf.takeOut,
    l: onFrameOf.leaveOut,
    r: onFrameOf.reference,
    v: onFrameOf.cover,
    n: () => ids.length > 1 && edit({ intent: "nest", stacks: ids }),
    u: () => current && !current.frameIds.length && edit({ intent: "unnest", stack: current.id }),
    d: () =>
      ids.length && edit({ intent: "done", stacks: ids, done: !selection.every((s) => s.done) }),
    ...Object.fromEntries([0, 1, 2, 3, 4, 5].map((rating) => [String(rating), () => rate(rating)])),
  });

  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const drop = (e: DragEndEvent): void => {
    const dragged = (e.active.data.current as { frame?: string } | undefined)?.frame;
    const target = e.over?.data.current as { stack?: string; before?: string } | undefined;
    if (!dragged || !target) return;
    const list = picked.has(dragged) ? [...picked] : [dragged];
    const to = stacks.find((s) =>
      target.stack ? s.id === target.stack : s.frameIds.includes(target.before!),
    );
    if (to)
      edit({
        intent: "move",
        frames: list,
        to: to.id,
        ...(target.before ? { at: to.frameIds.indexOf(target.before) } : {}),
      });
    setPicked(new Set());
  };
  const sets = useMemo(
    () =>
      stacks
        .filter((s) => s.frameIds.length)
        .sort((a, b) => a.order - b.order)
        .map((s) => ({ id: s.id, frames: s.frameIds.flatMap((id) => frames.get(id) ?? []) })),
    [stacks, frames],
  );
  const nestedIds = stacks.filter((s) => !s.frameIds.length).map((s) => s.id);
  const peeked = peek && stacks.find((s) => s.id === peek.stack);
  return (
    <DropArea onFiles={(f) => void work.start(f)}>
      <TopBar
        keys={KEYS}
        path={[{ text: "Shoots", to: "/shoots" }, { text: shoot.name }]}
        middle={`${counted(board.frames.length, "frame")} in ${counted(stacks.length, "stack")}${fetcher.data?.done ? `. ${fetcher.data.done}` : ""}`}
      >
        <BringInButtons busy={busy} onFiles={(f) => void work.start(f)} />
        <History state={history} />
        <Button
          variant="accent"
          disabled={!fresh.length}
          onClick={() => merge(fresh)}
          hint="Merges every stack that is not merged yet, in the background (Shift M)"
        >
          Merge {counted(fresh.length, "stack")}
        </Button>
      </TopBar>
      <BringInPanel work={work} />
      {stacks.length > 0 && (
        <Timeline
          sets={sets}
          selected={current?.id}
          onSelect={(id) => {
            const s = stacks.find((x) => x.id === id);
            if (s?.parentId) setOpened((was) => new Set([...was, s.parentId!]));
            setAt(id);
            setAlso(new Set());
          }}
        />
      )}
      {stacks.length > 0 && (
        <BoardBar
          filter={filter}
          onFilter={setFilter}
          shown={rows.filter((r) => !r.depth).length}
          all={stacks.filter((s) => !s.parentId).length}
          selection={selection}
          onEdit={edit}
          onSameKind={sameKind}
          onAll={selectAll}
          onSameRow={current && rowMates(stacks, current, place) ? sameRow : undefined}
          onFrame={current?.frameIds.length ? (what) => onFrameOf[what]() : undefined}
          onRate={rate}
          allOpen={nestedIds.length ? nestedIds.every((id) => opened.has(id)) : undefined}
          onOpenAll={() =>
            setOpened((was) =>
              nestedIds.every((id) => was.has(id)) ? new Set() : new Set(nestedIds),
            )
          }
          copied={copied}
          onCopy={() => setCopied(current?.id)}
        />
      )}
      {rows.length ? (
        <DndContext sensors={sensors} onDragEnd={drop}>
          <div
            ref={list}
            role="grid"
            aria-label="Stacks"
            aria-rowcount={rows.length}
            data-unsaved={fetcher.state === "idle" ? undefined : ""}
            className="min-h-0 grow overflow-auto"
          >
            <div style={{ height: virtual.getTotalSize() }} className="relative">
              {virtual.getVirtualItems().map((item) => {
                const row = rows[item.index]!;
                const s = row.stack;
                const own = framesOf(s);
                const take = board.takes.get(s.takeId);
                const job = tray.jobs.find(
                  (j) =>
                    j.kind === "merge" &&
                    j.about === s.id &&
                    (j.state === "running" || j.state === "waiting"),
                );
                return (
                  <div key={item.key} className="absolute inset-x-0" style={{ top: item.start }}>
                    <StackRow
                      row={row}
                      frames={own}
                      thumbnails={board.thumbnails}
                      result={board.results.get(s.id)}
                      leftOut={take?.recipe.frames.leftOut ?? []}
                      reference={referencePlace(own, take?.recipe)}
                      selected={ids.includes(s.id)}
                      current={s.id === current?.id}
                      cursor={s.id === current?.id ? place : undefined}
                      picked={picked}
                      to={`/shoots/${shoot.id}/${s.id}`}
                      naming={naming === s.id}
                      running={
                        job &&
                        (job.state === "waiting"
                          ? "Waiting"
                          : `${job.doing}, ${Math.round(job.share * 100)} %`)
                      }
                      onSelect={(e) => select(s, e)}
                      onFrame={(i, e) => pick(s, i, e)}
                      onPeek={(i) => setPeek({ stack: s.id, at: i })}
                      onOpen={() => toggleOpen(s.id)}
                      onDone={(done) => edit({ intent: "done", stacks: [s.id], done })}
                      onName={(name) => {
                        setNaming(undefined);
                        if (name && name !== s.name) edit({ intent: "name", stack: s.id, name });
                      }}
                    />
                  </div>
                );
              })}
            </div>
          </div>
        </DndContext>
      ) : (
        <main className="grid grow place-items-center">
          <p className="text-quiet">
            {stacks.length ? "No stack is like that. " : empty}
            {stacks.length > 0 && (
              <Button variant="plain" onClick={() => setFilter(NO_FILTER)}>
                Show all
              </Button>
            )}
          </p>
        </main>
      )}
      {peeked && framesOf(peeked).length > 0 && (
        <Peek
          frames={framesOf(peeked)}
          thumbnails={board.thumbnails}
          at={Math.min(peek.at, framesOf(peeked).length - 1)}
          onAt={(i) => {
            setPeek({ stack: peeked.id, at: i });
            setCursor(i);
          }}
          onClose={() => setPeek(undefined)}
        />
      )}
    </DropArea>
  );
}

/** Which of a stack's frames is the reference, as its recipe says. */
function referencePlace(frames: Frame[], recipe: Recipe | undefined): number | undefined {
  const used = frames.filter((f) => !recipe?.frames.leftOut.includes(f.id));
  if (
    !recipe ||
    !used.length ||
    (recipe.merge.reference !== "auto" && recipe.merge.reference >= used.length)
  )
    return undefined;
  return frames.indexOf(used[referenceOf(stackFrames(used, new Map()), recipe.merge)]!);
}
