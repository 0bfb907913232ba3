import { bytesText } from "../ui/bytesText";
import { inFolders } from "../../pipeline/deliver/fileName";
import { handOver, zipped, type OutFile } from "./handOver";
import { writeInto, type Folder } from "./resultFolder";

/** Where the files of a stack go. */
export interface Results {
  /** whether an earlier try made the file */
  has(at: number): boolean;
  /** takes a file as soon as it is made */
  take(at: number, file: OutFile): Promise<void>;
  /** all are made. @returns what became of them, in words */
  end(recipe: OutFile): Promise<string>;
}

/** A download: one file as it is, several with their recipe as a zip. */
export function asDownload(name: string): Results {
  const made: OutFile[] = [];
  return {
    has: () => false,
    take(_, file) {
      made.push(file);
      return Promise.resolve();
    },
    async end(recipe) {
      const [only, ...others] = made;
      const out = others.length
        ? { name: `${name}.zip`, content: await zipped([...made, recipe]) }
        : { ...only!, name: inFolders(only!.name).name };
      handOver(out);
      const size = bytesText(out.content.size);
      return others.length ? `${made.length} files, ${size}` : size;
    },
  };
}

/** A file in a folder: `whole` once it is written. */
export interface Written {
  name: string;
  whole: boolean;
}

/**
 * Files in a folder, each as soon as it is made, and their recipe beside them.
 *
 * @param written  what an earlier try wrote, by the place of the file: what it left is replaced
 * @param keep     keeps what is being written, for the next try
 */
export function intoFolder(
  folder: Folder,
  written: Readonly<Record<string, Written>>,
  keep: (written: Record<string, Written>) => Promise<void>,
): Results {
  const now: Record<string, Written> = { ...written };
  let bytes = 0;
  return {
    has: (at) => now[at]?.whole ?? false,
    async take(at, file) {
      const put = (name: string, whole: boolean): Promise<void> => {
        now[at] = { name, whole };
        return keep({ ...now });
      };
      const name = await writeInto(folder, file, {
        ...(now[at] ? { own: now[at].name } : {}),
        onName: (chosen) => put(chosen, false),
      });
      await put(name, true);
      bytes += file.content.size;
    },
    async end(recipe) {
      await writeInto(folder, recipe);
      const names = Object.values(now).map(({ name }) => name);
      const what = names.length > 1 ? `${names.length} files` : names[0]!;
      return `${what} in ${folder.name}, ${bytesText(bytes)}`;
    },
  };
}
