import { isPictureName, isPictureType } from "../../codecs/inputFormats";
import { RhizomeError } from "../../core/error";
import type { ComparedPairs } from "../../core/grouping/pairStatistics";
import type { FrameInfo } from "../../core/frame/frame";
import { byName } from "../../core/grouping/captureOrder";
import { pool } from "../work/pool";
import { arrange, newId } from "./arrange";
import { change, type Put } from "./changes";
import { db, storageError } from "./db";
import { exclusively, type Writer } from "./exclusive";
import { stopped } from "../../runtime/stopped";
import type { Frame } from "./records";
import { inspectingAllowance } from "../../pipeline/allowance";

export interface BringInState {
  total: number;
  done: number;
  failed: RhizomeError[];
  /** names of the files for which the storage had no room, and what it said */
  notKept: string[];
  full?: RhizomeError;
  known: number;
  thumbnails: { name: string; blob: Blob }[];
  shootId?: string;
  finished: boolean;
  startedAt: number;
  /** all are read; the stacks are being found */
  finding?: boolean;
}

export const isPicture = (f: File): boolean => isPictureName(f.name) || isPictureType(f.type);
export const isZip = (f: File): boolean => /\.zip$/i.test(f.name);
/**
 * Frames after which what is in is grouped while the rest still comes; again each time they have
 * doubled.
 */
const GROUP_FIRST = 40;

/**
 * Brings files into a shoot, a new one unless it is given; or those that come one after another, as
 * a camera takes them. Each frame is stored whole as soon as it is read, and counts as in from then
 * on, whatever happens to the page; stacks are found as frames come. Stopping keeps what is in. A
 * file that cannot be read is named.
 */
export async function bringIn(
  files: readonly File[] | AsyncIterable<File>,
  options: {
    name: string;
    shootId?: string;
    signal: AbortSignal;
    report: (s: BringInState) => void;
    grouped: () => void;
  },
): Promise<BringInState> {
  const d = await db();
  const { signal } = options;
  const listed = "length" in files ? files : [];
  const coming = "length" in files ? undefined : files[Symbol.asyncIterator]();
  void navigator.storage?.persist?.();
  const shootId = options.shootId ?? newId();
  const state: BringInState = {
    total: listed.length,
    done: 0,
    failed: [],
    notKept: [],
    known: 0,
    thumbnails: [],
    shootId,
    finished: false,
    startedAt: Date.now(),
  };
  const old = await d.getAllFromIndex("frames", "shootId", shootId);
  const oldStacks = new Set(
    (await d.getAllFromIndex("stacks", "shootId", shootId)).map((s) => s.id),
  );
  const known = new Set(old.map((f) => f.hash));
  const fresh: Frame[] = [];
  const report = (): void =>
    options.report({
      ...state,
      failed: [...state.failed],
      notKept: [...state.notKept],
      thumbnails: state.thumbnails.slice(-12),
    });
  report();
  const queue = (await unpacked(listed, state, signal)).sort((a, b) => byName(a.name, b.name));
  state.total = queue.length + state.failed.length;
  state.done = state.failed.length;
  const pairs: ComparedPairs = new Map();
  let grouping = Promise.resolve();
  let groupedAt = 0;
  const groupNow = (): Promise<void> =>
    (grouping = grouping.then(async () => {
      if (!fresh.length) return;
      groupedAt = fresh.length;
      await groupFresh({ shootId, old, fresh: [...fresh], pairs });
      options.grouped();
    }));
  const take = async (): Promise<File | undefined> => {
    if (!coming) return queue.shift();
    const { value, done } = await coming.next();
    if (done) return undefined;
    state.total++;
    return value;
  };
  const next = async (): Promise<void> => {
    for (let file = await take(); file && !signal.aborted; file = await take()) {
      try {
        const r = await pool().run(
          "inspect",
          { source: { name: file.name, blob: file }, thumbnail: 360, signature: true },
          { signal, subject: file.name, allowanceMs: inspectingAllowance(file.size) },
        );
        if (known.has(r.hash)) state.known++;
        else {
          known.add(r.hash);
          const thumb = new Blob([r.thumbnail! as BlobPart], { type: "image/jpeg" });
          const frame: Frame = {
            id: newId(),
            shootId,
            hash: r.hash,
            size: r.size,
            info: inFolder(r.info, file),
          };
          const tx = d.transaction(
            ["originals", "thumbnails", "appearances", "frames", "shoots"],
            "readwrite",
          );
          const shoots = tx.objectStore("shoots");
          if (!old.length && !fresh.length)
            void shoots.put({ id: shootId, name: options.name, createdAt: Date.now() });
          else if (!(await shoots.getKey(shootId))) throw stopped();
          fresh.push(frame);
          // a copy: the file on the card may be gone tomorrow
          await Promise.all([
            tx.objectStore("originals").put(new Blob([file], { type: file.type }), r.hash),
            tx.objectStore("thumbnails").put(thumb, r.hash),
            tx.objectStore("appearances").put(r.signature!, r.hash),
            tx.objectStore("frames").put(frame),
            tx.done,
          ]).catch((e: unknown) => {
            fresh.splice(fresh.indexOf(frame), 1);
            known.delete(r.hash);
            throw e;
          });
          state.thumbnails.push({ name: file.name, blob: thumb });
          if (fresh.length >= Math.max(GROUP_FIRST, groupedAt * 2)) {
            groupedAt = fresh.length;
            void groupNow().catch(() => undefined);
          }
        }
      } catch (e) {
        const error = e instanceof DOMException ? storageError(e) : RhizomeError.from(e);
        if (error.code === "stopped") break;
        if (error.code === "storage-full") {
          state.full = error;
          state.notKept.push(file.name, ...queue.map(({ name }) => name));
          state.done += queue.length;
          queue.length = 0;
        } else state.failed.push(error);
      }
      state.done++;
      report();
    }
  };
  await Promise.all(Array.from({ length: coming ? 1 : pool().threads + 1 }, next));
  state.finding = true;
  report();
  await groupNow();
  state.finding = false;
  if (fresh.length && old.length) {
    const stacks = (await d.getAllFromIndex("stacks", "shootId", shootId)).filter(
      (s) => !oldStacks.has(s.id),
    );
    const takes = await d.getAllFromIndex("takes", "shootId", shootId);
    const puts: Put[] = [
      ...fresh.map((value): Put => ({ store: "frames", value })),
      ...stacks.map((value): Put => ({ store: "stacks", value })),
      ...takes
        .filter((t) => stacks.some((s) => s.id === t.stackId))
        .map((value): Put => ({ store: "takes", value })),
    ];
    await exclusively((writer) =>
      change(writer, shootId, `Bring in ${fresh.length} frames`, puts, {
        undoable: true,
        asNew: true,
      }),
    );
  }
  state.finished = true;
  if (!fresh.length && !old.length) delete state.shootId;
  report();
  return state;
}

/** Finding stacks is tried so often while something else changes them. */
const TRIES = 3;

/**
 * Finds the stacks of frames that came in. It takes long, so the storage is not held meanwhile: where
 * stacks were changed by hand since they were read, they are found once more.
 */
async function groupFresh({
  shootId,
  old,
  fresh,
  pairs,
}: {
  shootId: string;
  old: readonly Frame[];
  fresh: readonly Frame[];
  pairs: ComparedPairs;
}): Promise<void> {
  const d = await db();
  const readStacks = () => d.getAllFromIndex("stacks", "shootId", shootId);
  const find = async (): Promise<{ seen: string; puts: Put[] }> => {
    const stacks = await readStacks();
    const mine = new Set(fresh.map((f) => f.id));
    // a stack that was changed by hand meanwhile keeps its frames
    for (const stack of stacks)
      if (stack.madeManually || stack.frameIds.some((id) => !mine.has(id)))
        for (const id of stack.frameIds) mine.delete(id);
    const puts = await arrange(shootId, [...old, ...fresh], stacks, mine, pairs);
    return { seen: JSON.stringify(stacks), puts };
  };
  for (let left = TRIES; left > 0; left--) {
    const { seen, puts } = await find();
    const isKept = await exclusively(async (writer) => {
      if (left > 1 && JSON.stringify(await readStacks()) !== seen) return false;
      if (!(await d.getKey("shoots", shootId))) throw stopped();
      await change(writer, shootId, "", puts, { undoable: false });
      return true;
    });
    if (isKept) return;
  }
}

/** With the folder that a file was in, since a camera's number may come again in another one. */
function inFolder(info: FrameInfo, { webkitRelativePath: path }: File): FrameInfo {
  const folder = path.slice(0, path.lastIndexOf("/") + 1).replace(/\/$/, "");
  return folder ? { ...info, folder } : info;
}

/** The files, with those in zips instead of the zips. */
async function unpacked(
  files: readonly File[],
  state: BringInState,
  signal: AbortSignal,
): Promise<File[]> {
  const out: File[] = [];
  for (const f of files) {
    if (!isZip(f)) {
      out.push(f);
      continue;
    }
    try {
      for (const { name, file } of await pool().run(
        "unzip",
        { source: { name: f.name, blob: f } },
        { signal, subject: f.name, allowanceMs: inspectingAllowance(f.size) },
      ))
        out.push(new File([file as BlobPart], name));
    } catch (e) {
      const error = RhizomeError.from(e);
      if (error.code !== "stopped") state.failed.push(error);
    }
  }
  return out;
}

/**
 * Groups again: all frames that no hand has put where they are, or (`loose`) only those in no stack
 * yet.
 */
export async function groupAgain(
  writer: Writer,
  shootId: string,
  which: "untouched" | "loose",
): Promise<number> {
  const d = await db();
  const [frames, stacks] = await Promise.all([
    d.getAllFromIndex("frames", "shootId", shootId),
    d.getAllFromIndex("stacks", "shootId", shootId),
  ]);
  const fixed = new Set(
    stacks
      .filter(
        (s) =>
          which === "loose" ||
          s.madeManually ||
          stacks.some((o) => o.id === s.parentId && o.madeManually),
      )
      .flatMap((s) => s.frameIds),
  );
  const puts = await arrange(
    shootId,
    frames,
    stacks,
    new Set(frames.filter((f) => !fixed.has(f.id)).map((f) => f.id)),
  );
  if (puts.length)
    await change(writer, shootId, "Group again", puts, { undoable: which === "untouched" });
  return puts.length;
}
