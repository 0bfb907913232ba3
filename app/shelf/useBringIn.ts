import { useEffect, useRef } from "react";
import { useStore } from "zustand";
import { useRevalidator } from "react-router";
import { READABLE } from "../../codecs/inputFormats";
import { RhizomeError } from "../../core/error";
import { bringIn, type BringInState } from "../store/bringIn";
import { isSidecarName } from "../../codecs/sidecarNames";
import { isPicture, isZip, type Incoming } from "../store/incoming";
import { bringing, setBringing } from "../work/bringing";

export interface BringIn {
  state: BringInState | undefined;
  error: RhizomeError | undefined;
  start(
    files: readonly (File | Incoming)[],
    how?: { name?: string; into?: string; isSample?: boolean },
  ): Promise<BringInState | undefined>;
  /** those that come one after another */
  follow(
    files: AsyncIterable<File>,
    name: string,
    into?: string,
  ): Promise<BringInState | undefined>;
  stop(): void;
  clear(): void;
}

const folderOf = (file: File | Incoming): string =>
  file instanceof File ? file.webkitRelativePath : (file.folder ?? "");

let turn: Promise<void> = Promise.resolve();

/**
 * Bringing files in, with its progress, for the shelf (a new shoot) and the board (into this one).
 */
export function useBringIn(shootId?: string): BringIn {
  const { state, error, stopper } = useStore(bringing);
  const { revalidate } = useRevalidator();
  const latest = useRef(revalidate);
  useEffect(() => {
    latest.current = revalidate;
  });
  const run = async (
    files: readonly (File | Incoming)[] | AsyncIterable<File>,
    name: string,
    into: string | undefined,
    isSample = false,
  ): Promise<BringInState | undefined> => {
    // what is dropped while something else comes in takes its turn
    const before = turn;
    let ended: () => void = () => undefined;
    turn = new Promise((ok) => {
      ended = ok;
    });
    await before;
    const own = new AbortController();
    try {
      const done = await bringIn(files, {
        name,
        ...(into ? { shootId: into } : {}),
        isSample,
        signal: own.signal,
        report: (s) => setBringing({ state: s, stopper: own }),
        grouped: () => void latest.current(),
      });
      await latest.current();
      return done;
    } catch (e) {
      setBringing({ error: RhizomeError.from(e) });
      return undefined;
    } finally {
      ended();
    }
  };
  return {
    state,
    error,
    follow: (files, name, into) => run(files, name, into),
    async start(files, { name, into = shootId, isSample } = {}) {
      const pictures = files.filter((f) => isPicture(f) || isZip(f));
      const sidecars = files.filter(({ name }) => isSidecarName(name));
      if (!pictures.length) {
        setBringing({
          error: new RhizomeError(
            "no-pictures",
            files.length
              ? `None of the ${files.length} files is a picture of a kind that is read.`
              : "There were no files in that.",
            `choose ${READABLE}, or a zip of them`,
          ),
        });
        return undefined;
      }
      const folder =
        folderOf(pictures[0]!).split("/")[0] ||
        (pictures.length === 1 && isZip(pictures[0]!)
          ? pictures[0]!.name.replace(/\.zip$/i, "")
          : "");
      return run(
        [...pictures, ...sidecars],
        name ??
          (folder ||
            `Shoot of ${new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}`),
        into,
        isSample,
      );
    },
    stop: () => stopper?.abort(),
    clear: () => setBringing({}),
  };
}

/** The files of a drop, with those in its folders. */
export async function droppedFiles(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items]
    .map((i) => i.webkitGetAsEntry())
    .filter((e): e is FileSystemEntry => e !== null);
  const walk = async (e: FileSystemEntry): Promise<File[]> => {
    if (e.isFile)
      return [await new Promise<File>((ok, no) => (e as FileSystemFileEntry).file(ok, no))];
    const reader = (e as FileSystemDirectoryEntry).createReader();
    const all: File[] = [];
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((ok, no) => reader.readEntries(ok, no));
      if (!some.length) return all;
      for (const s of some) all.push(...(await walk(s)));
    }
  };
  return (await Promise.all(entries.map(walk))).flat();
}
