import { RhizomeError } from "../../core/error";
import { db } from "./db";
import { readLinked } from "./linkedFolders";
import type { Frame } from "./records";

/**
 * A frame's file as it was brought in: from the storage, or from the folder that it stayed in.
 *
 * @throws RhizomeError `original-missing`, `folder-closed`, `frame-gone`, `frame-changed`
 */
export async function readOriginal(frame: Frame): Promise<Blob> {
  const kept = await (await db()).get("originals", frame.hash);
  if (kept) return kept;
  if (frame.link) return readLinked(frame);
  throw new RhizomeError(
    "original-missing",
    `The file of ${frame.info.name} is no longer in the storage.`,
    "bring it in again",
  );
}

/** The files of frames by their hash, and what is said of those that cannot be read. */
export async function readOriginals(
  frames: readonly Frame[],
): Promise<{ originals: Map<string, Blob>; unread: RhizomeError[] }> {
  const originals = new Map<string, Blob>();
  const unread: RhizomeError[] = [];
  await Promise.all(
    frames.map(async (frame) => {
      try {
        originals.set(frame.hash, await readOriginal(frame));
      } catch (e) {
        unread.push(RhizomeError.from(e));
      }
    }),
  );
  return { originals, unread };
}
