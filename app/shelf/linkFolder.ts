import { chooseFolderToLink, keepFolder } from "../store/linkedFolders";
import { incomingFile, type Incoming } from "../store/incoming";

/** Files of a folder that stay where they are. */
export interface Linked {
  name: string;
  files: Incoming[];
}

/** Asks for a folder, and lists what lies in it and below; undefined where none was chosen. */
export async function chooseLinked(): Promise<Linked | undefined> {
  const folder = await chooseFolderToLink();
  if (!folder) return undefined;
  const id = await keepFolder(folder);
  const files: Incoming[] = [];
  const walk = async (at: FileSystemDirectoryHandle, above: readonly string[]): Promise<void> => {
    const entries = at as unknown as AsyncIterable<[string, FileSystemHandle]>;
    for await (const [name, handle] of entries) {
      const path = [...above, name];
      if (handle.kind === "directory") await walk(handle as FileSystemDirectoryHandle, path);
      else {
        const file = await (handle as FileSystemFileHandle).getFile();
        const inFolder = [folder.name, ...above].join("/");
        const link = { folder: id, path, modified: file.lastModified };
        files.push({ ...incomingFile(file), folder: inFolder, link });
      }
    }
  };
  await walk(folder, []);
  return { name: folder.name, files };
}
