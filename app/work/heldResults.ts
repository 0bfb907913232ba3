import { safeName } from "../../pipeline/deliver/fileName";
import { FETCHED_WITHIN_MS, handOver, zipInto, type OutFile } from "./handOver";
import { bytesText } from "../ui/bytesText";
import type { Folder } from "./resultFolder";

/** Stacks that are delivered together; without a folder their files come as one zip. */
export interface Run {
  id: string;
  name: string;
  stacks: number;
}

/** In the browser's own file system, which no user sees. */
const HELD = "held results";
const ZIP = "zip";

/** All that is held; undefined where the browser has no file system of its own. */
async function held(): Promise<Folder | undefined> {
  const root = await navigator.storage?.getDirectory?.().catch(() => undefined);
  return root?.getDirectoryHandle(HELD, { create: true });
}

/** Where a run's files wait for the last of them; undefined where the browser has no such place. */
export async function heldFolder({ id, name }: Run): Promise<Folder | undefined> {
  const own = await (await held())?.getDirectoryHandle(id, { create: true });
  return own?.getDirectoryHandle(safeName(name), { create: true });
}

async function namesIn(folder: Folder): Promise<string[]> {
  const names: string[] = [];
  for await (const name of (folder as unknown as { keys(): AsyncIterable<string> }).keys())
    names.push(name);
  return names.sort();
}

/** All files in a folder and in those within it, named by their ways. */
async function filesIn(folder: Folder, way = ""): Promise<OutFile[]> {
  const files: OutFile[] = [];
  const entries = (folder as unknown as { values(): AsyncIterable<FileSystemHandle> }).values();
  for await (const entry of entries) {
    const name = `${way}${entry.name}`;
    if (entry.kind === "directory") files.push(...(await filesIn(entry as Folder, `${name}/`)));
    else files.push({ name, content: await (entry as FileSystemFileHandle).getFile() });
  }
  return files.sort((a, b) => (a.name < b.name ? -1 : 1));
}

/**
 * Hands a run's files over as one zip, written to the disk and not to memory, and holds them no
 * more.
 *
 * @returns what was handed over, in words; undefined where there was nothing
 */
export async function handOverRun(run: Run): Promise<string | undefined> {
  const folder = await heldFolder(run);
  const files = folder ? await filesIn(folder) : [];
  if (!files.length) return undefined;
  const zips = await (await held())!.getDirectoryHandle(ZIP, { create: true });
  const file = await zips.getFileHandle(`${run.id}.zip`, { create: true });
  const out = await file.createWritable();
  await zipInto(files, (bytes) => out.write(bytes));
  await out.close();
  const content = await file.getFile();
  const name = `${safeName(run.name)}.zip`;
  handOver({ name, content });
  await drop(run.id);
  setTimeout(() => void zips.removeEntry(file.name).catch(() => undefined), FETCHED_WITHIN_MS);
  return `${name}, ${bytesText(content.size)}`;
}

async function drop(id: string): Promise<void> {
  await (await held())?.removeEntry(id, { recursive: true }).catch(() => undefined);
}

/** A zip that is older was fetched, ms. */
const SURELY_FETCHED_MS = 3600000;

/** Holds nothing of runs that nobody waits for any more. @param live  those that go on */
export async function sweepHeld(live: ReadonlySet<string>): Promise<void> {
  const all = await held();
  if (!all) return;
  for (const name of await namesIn(all)) if (name !== ZIP && !live.has(name)) await drop(name);
  const zips = await all.getDirectoryHandle(ZIP, { create: true });
  const before = Date.now() - SURELY_FETCHED_MS;
  for (const name of await namesIn(zips)) {
    const file = await (await zips.getFileHandle(name)).getFile();
    if (file.lastModified < before) await zips.removeEntry(name);
  }
}
