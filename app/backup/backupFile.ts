import { RhizomeError } from "../../core/error";
import { FETCHED_WITHIN_MS, handOver } from "../work/handOver";

/** Where a backup is written: a file of the user's, or the browser's own that is then handed over. */
export interface BackupTarget {
  handle: FileSystemFileHandle;
  /** once all is written */
  done(): Promise<void>;
  /** nothing was written: no half file is left */
  drop(): Promise<void>;
}

type Picker = (options: {
  id: string;
  suggestedName: string;
  types: { description: string; accept: Record<string, string[]> }[];
}) => Promise<FileSystemFileHandle & { remove?: () => Promise<void> }>;

const FOLDER = "backups";

/** In the browser's own file system until it is fetched. */
async function ownTarget(name: string): Promise<BackupTarget> {
  const root = await navigator.storage?.getDirectory?.().catch(() => undefined);
  if (!root)
    throw new RhizomeError(
      "no-file-system",
      "This browser gives pages no room for files, so no backup can be made.",
      "use a current browser, and no private window",
    );
  const folder = await root.getDirectoryHandle(FOLDER, { create: true });
  const handle = await folder.getFileHandle(`${crypto.randomUUID()}.zip`, { create: true });
  const drop = (): Promise<void> => folder.removeEntry(handle.name).catch(() => undefined);
  return {
    handle,
    drop,
    async done() {
      handOver({ name, content: await handle.getFile() });
      setTimeout(() => void drop(), FETCHED_WITHIN_MS);
    },
  };
}

/**
 * Asks where a backup is to go, while a click or key is handled.
 *
 * @returns undefined where the user chose nothing
 * @throws RhizomeError `no-file-system`
 */
export async function chooseTarget(name: string): Promise<BackupTarget | undefined> {
  const pick = (globalThis as { showSaveFilePicker?: Picker }).showSaveFilePicker;
  if (!pick) return ownTarget(name);
  try {
    const accept = { "application/zip": [".zip"] };
    const types = [{ description: "Backup", accept }];
    const handle = await pick({ id: "backup", suggestedName: name, types });
    return {
      handle,
      done: () => Promise.resolve(),
      drop: async () => handle.remove?.().catch(() => undefined),
    };
  } catch (e) {
    if (e instanceof DOMException && e.name === "AbortError") return undefined;
    throw e;
  }
}

/** A file that is older is written by nobody any more, ms. */
const SURELY_OVER_MS = 3600000;

/** Removes what pages that were closed left in the browser's own file system. */
export async function sweepBackups(): Promise<void> {
  const root = await navigator.storage?.getDirectory?.().catch(() => undefined);
  const folder = await root?.getDirectoryHandle(FOLDER).catch(() => undefined);
  if (!folder) return;
  const files = (folder as unknown as { values(): AsyncIterable<FileSystemFileHandle> }).values();
  for await (const handle of files) {
    const { lastModified } = await handle.getFile();
    if (lastModified < Date.now() - SURELY_OVER_MS) await folder.removeEntry(handle.name);
  }
}
