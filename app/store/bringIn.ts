import { RhizomeError } from "../../core/error";
import type { FrameSignature } from "../../core/grouping/signature";
import type { ComparedPairs } from "../../core/grouping/pairStatistics";
import { stopped } from "../../runtime/stopped";
import { inspectingAllowance } from "../../pipeline/allowance";
import { pool } from "../work/pool";
import { newId } from "./arrange";
import { change, type Put } from "./changes";
import { db, storageError, type Db } from "./db";
import { exclusively } from "./exclusive";
import { groupFresh } from "./grouping";
import { incomingFile, incomingOf, type Incoming } from "./incoming";
import { askToKeep, promised, storageEstimate, type Promised } from "./persistence";
import { willNotFit } from "./room";
import type { Frame } from "./records";

export interface BringInState {
  total: number;
  done: number;
  failed: RhizomeError[];
  /** what was left out of zips, each with its reason */
  leftOut: RhizomeError[];
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
  /** whether the browser promised to keep what came in */
  promised?: Promised;
  /** said when not all of it will fit */
  tooMuch?: string;
}

export interface BringInOptions {
  name: string;
  shootId?: string;
  /** it can be had again at any time: the browser need not promise to keep it */
  isSample?: boolean;
  signal: AbortSignal;
  report: (s: BringInState) => void;
  grouped: () => void;
}

/**
 * Frames after which what is in is grouped while the rest still comes, so that the first stacks can
 * be opened; again each time they have doubled.
 */
const GROUP_FIRST = 8;
/** So many of the last thumbnails are shown while frames come in. */
const SHOWN_THUMBNAILS = 12;

/** Frames on their way into a shoot. */
class Arrival {
  readonly fresh: Frame[] = [];
  private readonly pairs: ComparedPairs = new Map();
  private grouping = Promise.resolve();
  private groupedAt = 0;

  private constructor(
    private readonly d: Db,
    readonly shootId: string,
    private readonly options: BringInOptions,
    readonly old: readonly Frame[],
    private readonly oldStacks: ReadonlySet<string>,
    private readonly known: Set<string>,
    readonly state: BringInState,
  ) {}

  static async into(shootId: string, options: BringInOptions, total: number): Promise<Arrival> {
    const d = await db();
    const old = await d.getAllFromIndex("frames", "shootId", shootId);
    const oldStacks = await d.getAllFromIndex("stacks", "shootId", shootId);
    return new Arrival(
      d,
      shootId,
      options,
      old,
      new Set(oldStacks.map(({ id }) => id)),
      new Set(old.map(({ hash }) => hash)),
      {
        total,
        done: 0,
        failed: [],
        leftOut: [],
        notKept: [],
        known: 0,
        thumbnails: [],
        shootId,
        finished: false,
        startedAt: Date.now(),
      },
    );
  }

  report(): void {
    this.options.report({
      ...this.state,
      failed: [...this.state.failed],
      notKept: [...this.state.notKept],
      thumbnails: this.state.thumbnails.slice(-SHOWN_THUMBNAILS),
    });
  }

  groupNow(): Promise<void> {
    this.grouping = this.grouping.then(async () => {
      if (!this.fresh.length) return;
      this.groupedAt = this.fresh.length;
      const { shootId, old, fresh, pairs } = this;
      await groupFresh({ shootId, old, fresh: [...fresh], pairs });
      this.options.grouped();
    });
    return this.grouping;
  }

  /** Reads a file and keeps it as a frame. */
  async take(incoming: Incoming): Promise<void> {
    const { signal } = this.options;
    const file = await incoming.open(signal);
    const read = await pool().run(
      "inspect",
      { source: { name: incoming.name, blob: file }, thumbnail: 360, signature: true },
      { signal, subject: incoming.name, allowanceMs: inspectingAllowance(file.size) },
    );
    if (this.known.has(read.hash)) {
      this.state.known++;
      return;
    }
    this.known.add(read.hash);
    const { folder, words } = incoming;
    const exif = { ...read.info.exif, ...words };
    const frame: Frame = {
      id: newId(),
      shootId: this.shootId,
      hash: read.hash,
      size: read.size,
      info: { ...read.info, exif, ...(folder ? { folder } : {}) },
      ...(incoming.link ? { link: incoming.link } : {}),
    };
    const thumbnail = new Blob([read.thumbnail! as BlobPart], { type: "image/jpeg" });
    // a copy: the file on the card may be gone tomorrow; one that stays is read where it is
    const original = incoming.link ? undefined : new Blob([file], { type: incoming.type });
    await this.keep(frame, original, thumbnail, read.signature!);
    this.state.thumbnails.push({ name: incoming.name, blob: thumbnail });
    if (this.fresh.length >= Math.max(GROUP_FIRST, this.groupedAt * 2)) {
      this.groupedAt = this.fresh.length;
      void this.groupNow().catch(() => undefined);
    }
  }

  private async keep(
    frame: Frame,
    original: Blob | undefined,
    thumbnail: Blob,
    signature: FrameSignature,
  ): Promise<void> {
    const tx = this.d.transaction(
      ["originals", "thumbnails", "appearances", "frames", "shoots"],
      "readwrite",
    );
    const shoots = tx.objectStore("shoots");
    const { name } = this.options;
    if (!this.old.length && !this.fresh.length)
      void shoots.put({ id: this.shootId, name, createdAt: Date.now() });
    else if (!(await shoots.getKey(this.shootId))) throw stopped();
    this.fresh.push(frame);
    try {
      await Promise.all([
        original && tx.objectStore("originals").put(original, frame.hash),
        tx.objectStore("thumbnails").put(thumbnail, frame.hash),
        tx.objectStore("appearances").put(signature, frame.hash),
        tx.objectStore("frames").put(frame),
        tx.done,
      ]);
    } catch (e) {
      this.fresh.splice(this.fresh.indexOf(frame), 1);
      this.known.delete(frame.hash);
      throw e;
    }
  }

  /** Takes files until there are none, or it is stopped; one that fails is named. */
  async takeAll(next: () => Promise<Incoming | undefined>, waiting: Incoming[]): Promise<void> {
    const { state } = this;
    for (let file = await next(); file && !this.options.signal.aborted; file = await next()) {
      try {
        await this.take(file);
      } catch (e) {
        const error = e instanceof DOMException ? storageError(e) : RhizomeError.from(e);
        if (error.code === "stopped") return;
        if (error.code === "storage-full") {
          state.full = error;
          state.notKept.push(file.name, ...waiting.map(({ name }) => name));
          state.done += waiting.length;
          waiting.length = 0;
        } else state.failed.push(error);
      }
      state.done++;
      this.report();
    }
  }

  /** Frames that came into a shoot that was there are one change, which can be taken back. */
  async keepAsChange(): Promise<void> {
    const { fresh, shootId } = this;
    if (!fresh.length || !this.old.length) return;
    const stacks = (await this.d.getAllFromIndex("stacks", "shootId", shootId)).filter(
      ({ id }) => !this.oldStacks.has(id),
    );
    const takes = await this.d.getAllFromIndex("takes", "shootId", shootId);
    const puts: Put[] = [
      ...fresh.map((value): Put => ({ store: "frames", value })),
      ...stacks.map((value): Put => ({ store: "stacks", value })),
      ...takes
        .filter(({ stackId }) => stacks.some(({ id }) => id === stackId))
        .map((value): Put => ({ store: "takes", value })),
    ];
    const label = `Bring in ${fresh.length} frames`;
    await exclusively((writer) =>
      change(writer, shootId, label, puts, { undoable: true, asNew: true }),
    );
  }
}

/**
 * Brings files into a shoot, a new one unless it is given; or those that come one after another, as
 * a camera takes them. Each frame is stored whole as soon as it is read, and counts as in from then
 * on, whatever happens to the page; stacks are found as frames come. Stopping keeps what is in. A
 * file that cannot be read is named.
 */
export async function bringIn(
  files: readonly (File | Incoming)[] | AsyncIterable<File>,
  options: BringInOptions,
): Promise<BringInState> {
  const listed = "length" in files ? files : [];
  const coming = "length" in files ? undefined : files[Symbol.asyncIterator]();
  const arrival = await Arrival.into(options.shootId ?? newId(), options, listed.length);
  const { state } = arrival;
  arrival.report();
  // asked while the files are read: the browser may ask its user, who need not answer
  const asking = options.isSample ? promised() : askToKeep();
  const {
    incoming: waiting,
    failed,
    leftOut,
  } = await incomingOf(
    listed.map((file) => (file instanceof File ? incomingFile(file) : file)),
    options.signal,
  );
  state.failed.push(...failed);
  state.leftOut.push(...leftOut);
  const estimate = await storageEstimate();
  const bytes = waiting.reduce((sum, { size, link }) => sum + (link ? 0 : size), 0);
  const tooMuch = estimate && willNotFit(bytes, estimate);
  if (tooMuch) state.tooMuch = tooMuch;
  state.total = waiting.length + failed.length;
  state.done = failed.length;
  const next = async (): Promise<Incoming | undefined> => {
    if (!coming) return waiting.shift();
    const { value, done } = await coming.next();
    if (done) return undefined;
    state.total++;
    return incomingFile(value);
  };
  const atOnce = coming ? 1 : pool().threads + 1;
  await Promise.all(Array.from({ length: atOnce }, () => arrival.takeAll(next, waiting)));
  state.finding = true;
  arrival.report();
  await arrival.groupNow();
  state.finding = false;
  await arrival.keepAsChange();
  state.promised = await Promise.race([asking, Promise.resolve<Promised>("unknown")]);
  state.finished = true;
  if (!arrival.fresh.length && !arrival.old.length) delete state.shootId;
  arrival.report();
  return state;
}
