import { RhizomeError } from "../../core/error";
import { db } from "./db";
import type { Frame } from "./records";

type Permission = "granted" | "denied" | "prompt";
/** A folder of the disk that frames stay in (File System Access). */
export interface LinkedFolder extends FileSystemDirectoryHandle {
  queryPermission(options: { mode: "read" }): Promise<Permission>;
  requestPermission(options: { mode: "read" }): Promise<Permission>;
}
type Picker = (options: { id: string; mode: "read" }) => Promise<LinkedFolder>;

const READING = { mode: "read" } as const;
const KEY = "linked folder ";

const picker = (): Picker | undefined =>
  (globalThis as { showDirectoryPicker?: Picker }).showDirectoryPicker;

/** Whether this browser lets a page come back to a folder that the user chose. */
export const linksFolders = (): boolean => picker() !== undefined;

/** Asks for a folder, while a click or key is handled; undefined where the user chose none. */
export async function chooseFolderToLink(): Promise<LinkedFolder | undefined> {
  try {
    return await picker()!({ id: "frames", ...READING });
  } catch (e) {
    if (e instanceof DOMException && e.name === "AbortError") return undefined;
    throw e;
  }
}

/** Keeps the way to a folder. @returns its id; that of before where it is known already */
export async function keepFolder(folder: LinkedFolder): Promise<string> {
  const d = await db();
  for (const key of await d.getAllKeys("settings")) {
    if (!key.startsWith(KEY)) continue;
    const known = (await d.get("settings", key)) as LinkedFolder;
    if (await known.isSameEntry(folder).catch(() => false)) return key.slice(KEY.length);
  }
  const id = crypto.randomUUID();
  await d.put("settings", folder, KEY + id);
  return id;
}

const folderOf = async (id: string): Promise<LinkedFolder | undefined> =>
  (await (await db()).get("settings", KEY + id)) as LinkedFolder | undefined;

/** A folder that may not be read until the user allows it once more. */
export interface ClosedFolder {
  id: string;
  name: string;
}

/** The folders in which some frames lie, and which may not be read now. */
export async function closedFolders(frames: readonly Frame[]): Promise<ClosedFolder[]> {
  const ids = new Set(frames.flatMap(({ link }) => link?.folder ?? []));
  const closed: ClosedFolder[] = [];
  for (const id of ids) {
    const folder = await folderOf(id);
    if (folder && (await folder.queryPermission(READING)) !== "granted")
      closed.push({ id, name: folder.name });
  }
  return closed;
}

/** Asks the user for folders once more, while a click or key is handled. */
export async function openFolders(ids: readonly string[]): Promise<void> {
  for (const id of ids) await (await folderOf(id))?.requestPermission(READING);
}

/**
 * The file of a frame that stayed on the disk.
 *
 * @throws RhizomeError `folder-closed`, `frame-gone`, `frame-changed`
 */
export async function readLinked({ info: { name }, size, link }: Frame): Promise<Blob> {
  const folder = link && (await folderOf(link.folder));
  if (!folder)
    throw new RhizomeError(
      "frame-gone",
      `${name} lies in a folder that this browser does not know.`,
      "bring it in again",
    );
  if ((await folder.queryPermission(READING)) !== "granted")
    throw new RhizomeError(
      "folder-closed",
      `${name} lies in the folder ${folder.name}, which may not be read now.`,
      "allow it on the board or beside the picture",
    );
  const file = await fileAt(folder, link.path).catch(() => undefined);
  if (!file)
    throw new RhizomeError(
      "frame-gone",
      `${name} is no longer in the folder ${folder.name}.`,
      "put it back, or bring it in again from where it is",
    );
  if (file.size !== size || file.lastModified !== link.modified)
    throw new RhizomeError(
      "frame-changed",
      `${name} in the folder ${folder.name} was changed since it was brought in.`,
      "put the file of then back, or bring it in again",
    );
  return file;
}

async function fileAt(folder: FileSystemDirectoryHandle, path: readonly string[]): Promise<File> {
  let at = folder;
  for (const name of path.slice(0, -1)) at = await at.getDirectoryHandle(name);
  return (await at.getFileHandle(path.at(-1)!)).getFile();
}
