import { isPictureName } from "../../codecs/format";
import { RhizomeError } from "../../core/error";
import { byName } from "../../core/grouping/captureOrder";
import { groupFrames } from "../../core/grouping/groupFrames";
import { defaultRecipe } from "../../core/recipe/recipe";
import { pool } from "../work/pool";
import { change, type Put } from "./changes";
import { db, storageError } from "./db";
import type { Frame, Stack } from "./records";

export interface BringInState { total: number; done: number; failed: RhizomeError[]; known: number; thumbnails: { name: string; blob: Blob }[]; shootId?: string; finished: boolean }

export const newId = (): string => crypto.randomUUID();
export const isPicture = (f: File): boolean => isPictureName(f.name) || /^image\/(jpeg|png|tiff|webp|avif)$/.test(f.type);

/**
 * Brings files into a shoot, a new one unless it is given. Each original is stored as soon as it is read; the
 * records and the stacks follow in one change. Stopping keeps what is in. A file that cannot be read is named.
 */
export async function bringIn(files: readonly File[], options: { name: string; shootId?: string; signal: AbortSignal; report: (s: BringInState) => void }): Promise<BringInState> {
  const d = await db();
  void navigator.storage?.persist?.();
  const shootId = options.shootId ?? newId();
  const state: BringInState = { total: files.length, done: 0, failed: [], known: 0, thumbnails: [], shootId, finished: false };
  const old = await d.getAllFromIndex("frames", "shootId", shootId);
  const known = new Set(old.map((f) => f.hash)), fresh: Frame[] = [];
  const report = (): void => options.report({ ...state, failed: [...state.failed], thumbnails: state.thumbnails.slice(-12) });
  report();
  const queue = [...files].sort((a, b) => byName(a.name, b.name));
  const next = async (): Promise<void> => {
    for (let file = queue.shift(); file && !options.signal.aborted; file = queue.shift()) {
      try {
        const r = await pool().run("inspect", { source: { name: file.name, blob: file }, thumbnail: 360 }, { signal: options.signal });
        if (known.has(r.hash)) state.known++;
        else {
          known.add(r.hash);
          const thumb = new Blob([r.thumbnail! as BlobPart], { type: "image/jpeg" });
          const tx = d.transaction(["originals", "thumbnails"], "readwrite");
          // a copy: the file on the card may be gone tomorrow
          await Promise.all([tx.objectStore("originals").put(new Blob([file], { type: file.type }), r.hash), tx.objectStore("thumbnails").put(thumb, r.hash), tx.done]);
          fresh.push({ id: newId(), shootId, hash: r.hash, size: r.size, info: r.info });
          state.thumbnails.push({ name: file.name, blob: thumb });
        }
      } catch (e) {
        const error = e instanceof DOMException ? storageError(e) : RhizomeError.from(e);
        if (error.code !== "stopped") state.failed.push(error);
        if (error.code === "storage-full") queue.length = 0;
      }
      state.done++;
      report();
    }
  };
  await Promise.all(Array.from({ length: pool().threads + 1 }, next));
  if (fresh.length) {
    const puts: Put[] = fresh.map((value) => ({ store: "frames", value }));
    if (!old.length) puts.unshift({ store: "shoots", value: { id: shootId, name: options.name, createdAt: Date.now() } });
    puts.push(...stacksOf(shootId, fresh, (await d.getAllFromIndex("stacks", "shootId", shootId)).length));
    await change(shootId, `Bring in ${fresh.length} frames`, puts, { undoable: old.length > 0 });
  }
  state.finished = true;
  if (!fresh.length && !old.length) delete state.shootId;
  report();
  return state;
}

function stacksOf(shootId: string, frames: Frame[], from: number): Put[] {
  return groupFrames(frames.map((f) => f.info)).flatMap((found, i): Put[] => {
    const stackId = newId(), takeId = newId(), members = found.frames.map((k) => frames[k]!);
    const stem = (n: string): string => n.replace(/\.\w+$/, "");
    const first = stem(members[0]!.info.name), last = stem(members.at(-1)!.info.name);
    const stack: Stack = { id: stackId, shootId, kind: found.kind, name: first === last ? first : `${first} to ${last.replace(/^\D+/, "")}`, order: from + i, frameIds: members.map((f) => f.id), why: found.why, warnings: found.warnings, takeId };
    return [{ store: "stacks", value: stack }, { store: "takes", value: { id: takeId, stackId, shootId, name: "First", recipe: defaultRecipe("bracket") } }];
  });
}

/** The demo shoot's files, from our own server. */
export async function fetchDemo(report: (share: number) => void): Promise<{ name: string; files: File[] }> {
  const get = async (path: string): Promise<Response> => {
    const r = await fetch(`/demo/${path}`).catch(() => undefined);
    if (!r?.ok) throw new RhizomeError("demo-missing", "The demo frames could not be read from the server.", "start Rhizome with `npm run demo`");
    return r;
  };
  const manifest = (await (await get("shoot.json")).json()) as { shoot: string; frames: string[] };
  const files: File[] = [];
  for (const n of manifest.frames) { files.push(new File([await (await get(n)).blob()], n, { type: "image/jpeg" })); report(files.length / manifest.frames.length); }
  return { name: manifest.shoot, files };
}

const SEEDED = "demo-brought-in";
export async function demoWanted(): Promise<boolean> { return !(await (await db()).get("settings", SEEDED)); }
export async function demoDone(): Promise<void> { await (await db()).put("settings", true, SEEDED); }
