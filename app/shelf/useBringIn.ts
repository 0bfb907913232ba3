import { useRef, useState } from "react";
import { useRevalidator } from "react-router";
import { READABLE } from "../../codecs/format";
import { RhizomeError } from "../../core/error";
import { bringIn, isPicture, type BringInState } from "../store/bringIn";

export interface BringIn { state: BringInState | undefined; error: RhizomeError | undefined; start(files: readonly File[], name?: string): Promise<BringInState | undefined>; stop(): void; clear(): void }

/** Bringing files in, with its progress, for the shelf (a new shoot) and the board (into this one). */
export function useBringIn(shootId?: string): BringIn {
  const [state, setState] = useState<BringInState>();
  const [error, setError] = useState<RhizomeError>();
  const stopper = useRef<AbortController>(undefined);
  const { revalidate } = useRevalidator();
  return {
    state, error,
    async start(files, name) {
      const pictures = files.filter(isPicture);
      setError(undefined);
      if (!pictures.length) { setError(new RhizomeError("no-pictures", files.length ? `None of the ${files.length} files is a picture of a kind that is read.` : "There were no files in that.", `choose ${READABLE}`)); return undefined; }
      stopper.current = new AbortController();
      const folder = pictures[0]!.webkitRelativePath.split("/")[0];
      try {
        const done = await bringIn(pictures, { name: name ?? (folder || `Shoot of ${new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}`), ...(shootId ? { shootId } : {}), signal: stopper.current.signal, report: setState });
        await revalidate();
        return done;
      } catch (e) { setError(RhizomeError.from(e)); return undefined; }
    },
    stop: () => stopper.current?.abort(),
    clear: () => { setState(undefined); setError(undefined); },
  };
}

/** The files of a drop, with those in its folders. */
export async function droppedFiles(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry()).filter((e): e is FileSystemEntry => e !== null);
  const walk = async (e: FileSystemEntry): Promise<File[]> => {
    if (e.isFile) return [await new Promise<File>((ok, no) => (e as FileSystemFileEntry).file(ok, no))];
    const reader = (e as FileSystemDirectoryEntry).createReader(), all: File[] = [];
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((ok, no) => reader.readEntries(ok, no));
      if (!some.length) return all;
      for (const s of some) all.push(...(await walk(s)));
    }
  };
  return (await Promise.all(entries.map(walk))).flat();
}
