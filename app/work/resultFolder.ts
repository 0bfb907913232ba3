import { RhizomeError } from "../../core/error";
import { db } from "../store/db";
import { resultFolderKey } from "../store/resultFolderKey";
import { inFolders, numbered } from "../../pipeline/deliver/fileName";
import type { OutFile } from "./handOver";

type Permission = "granted" | "denied" | "prompt";
/** A folder to write into, of the disk or of the browser's own file system. */
export type Folder = FileSystemDirectoryHandle;
/** What browsers that write into folders have beside the standard's types (File System Access). */
export interface ResultFolder extends Folder {
  queryPermission(options: { mode: "readwrite" }): Promise<Permission>;
  requestPermission(options: { mode: "readwrite" }): Promise<Permission>;
}
type Picker = (options: { id: string; mode: "readwrite" }) => Promise<ResultFolder>;

const WRITING = { mode: "readwrite" } as const;

const picker = (): Picker | undefined =>
  (globalThis as { showDirectoryPicker?: Picker }).showDirectoryPicker;

/** Whether this browser lets a page write into a folder that the user chooses. */
export const writesIntoFolders = (): boolean => picker() !== undefined;

/** The folder into which a shoot's results go; undefined where they are downloads. */
export async function folderOf(shoot: string): Promise<ResultFolder | undefined> {
  return (await (await db()).get("settings", resultFolderKey(shoot))) as ResultFolder | undefined;
}

/** Asks for a folder for a shoot's results and keeps it; undefined where the user chose none. */
export async function chooseFolder(shoot: string): Promise<ResultFolder | undefined> {
  try {
    const folder = await picker()!({ id: "results", ...WRITING });
    await (await db()).put("settings", folder, resultFolderKey(shoot));
    return folder;
  } catch (e) {
    if (e instanceof DOMException && e.name === "AbortError") return undefined;
    throw e;
  }
}

/** From now on a shoot's results are downloads. */
export async function forgetFolder(shoot: string): Promise<void> {
  await (await db()).delete("settings", resultFolderKey(shoot));
}

/**
 * The folder for a shoot's results, ready to be written to; undefined where they are downloads. It
 * asks the user where the browser wants that, so it is called while a click or key is handled.
 *
 * @throws RhizomeError `folder-closed`
 */
export async function openFolder(shoot: string): Promise<ResultFolder | undefined> {
  const folder = await folderOf(shoot);
  if (!folder) return undefined;
  // of a folder that is gone there is none
  const state = await folder.queryPermission(WRITING).catch(() => "denied" as const);
  // without a click or a key the browser does not even ask
  const ask = () => folder.requestPermission(WRITING).catch(() => "denied" as const);
  if (state === "granted" || (await ask()) === "granted") return folder;
  throw new RhizomeError(
    "folder-closed",
    `The folder ${folder.name} is gone, or may not be written to.`,
    "deliver again and allow it, or choose another folder",
  );
}

async function exists(folder: Folder, name: string): Promise<boolean> {
  try {
    await folder.getFileHandle(name);
    return true;
  } catch (e) {
    if (e instanceof DOMException && e.name === "NotFoundError") return false;
    throw e;
  }
}

/** A name that no file in a folder has: a number goes before its ending. */
async function unusedName(folder: Folder, name: string): Promise<string> {
  let free = name;
  for (let n = 2; await exists(folder, free); n++) free = numbered(name, n);
  return free;
}

/** A folder within another one, made where it is not there. */
async function folderWithin(folder: Folder, [first, ...rest]: readonly string[]): Promise<Folder> {
  if (first === undefined) return folder;
  return folderWithin(await folder.getDirectoryHandle(first, { create: true }), rest);
}

/**
 * Writes a file into a folder, whole or not at all; one that is there already stays, and the new one
 * gets a number. The name may begin with folders within it, which are made.
 *
 * @param own     name of what an earlier try left, which is replaced
 * @param onName  is told the name before anything is written
 * @returns the name that it has
 * @throws RhizomeError `folder-unwritable`
 */
export async function writeInto(
  folder: Folder,
  { name, content }: OutFile,
  { own, onName }: { own?: string; onName?: (name: string) => Promise<void> } = {},
): Promise<string> {
  try {
    const { folders, name: wanted } = inFolders(own ?? name);
    const into = await folderWithin(folder, folders);
    const free = own === undefined ? await unusedName(into, wanted) : wanted;
    const path = [...folders, free].join("/");
    await onName?.(path);
    const file = await into.getFileHandle(free, { create: true });
    try {
      await content.stream().pipeTo(await file.createWritable());
    } catch (e) {
      await into.removeEntry(free).catch(() => undefined);
      throw e;
    }
    return path;
  } catch (e) {
    throw unwritable(folder, name, e);
  }
}

/**
 * Writes a text file into a folder in place of the one that is there, of which it is made.
 *
 * @param text  makes it of the one that is there
 * @throws RhizomeError `folder-unwritable`
 */
export async function replaceIn(
  folder: Folder,
  name: string,
  text: (from: string | undefined) => string,
): Promise<void> {
  try {
    const was = (await exists(folder, name))
      ? await (await (await folder.getFileHandle(name)).getFile()).text()
      : undefined;
    const file = await folder.getFileHandle(name, { create: true });
    // the old one stays until all of the new one is written
    const out = await file.createWritable();
    await out.write(text(was));
    await out.close();
  } catch (e) {
    throw unwritable(folder, name, e);
  }
}

function unwritable(folder: Folder, name: string, e: unknown): RhizomeError {
  const why = e instanceof Error ? e.message : "unknown reason";
  return new RhizomeError(
    "folder-unwritable",
    `${name} cannot be written into the folder ${folder.name}: ${why}.`,
    "see that the folder is there and has room, or choose another one",
  );
}
