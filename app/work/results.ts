import { handOver, zipped, type OutFile } from "./handOver";
import { writeInto, type ResultFolder } from "./resultFolder";

/** Where the files of a stack go. */
interface Results {
  /** takes a file as soon as it is made */
  take(file: OutFile): Promise<void>;
  /** all are made. @returns what became of them, in words */
  end(recipe: OutFile): Promise<string>;
}

const megabytes = (bytes: number): string => `${(bytes / 2 ** 20).toFixed(1)} MiB`;

/** A download: one file as it is, several with their recipe as a zip. */
export function asDownload(name: string): Results {
  const made: OutFile[] = [];
  return {
    take(file) {
      made.push(file);
      return Promise.resolve();
    },
    async end(recipe) {
      const [only, ...others] = made;
      const out = others.length
        ? { name: `${name}.zip`, content: await zipped([...made, recipe]) }
        : only!;
      handOver(out);
      const size = megabytes(out.content.size);
      return others.length ? `${made.length} files, ${size}` : size;
    },
  };
}

/** Files in a folder, each as soon as it is made, and their recipe beside them. */
export function intoFolder(folder: ResultFolder): Results {
  const names: string[] = [];
  let bytes = 0;
  return {
    async take(file) {
      names.push(await writeInto(folder, file));
      bytes += file.content.size;
    },
    async end(recipe) {
      await writeInto(folder, recipe);
      const what = names.length > 1 ? `${names.length} files` : names[0]!;
      return `${what} in ${folder.name}, ${megabytes(bytes)}`;
    },
  };
}
