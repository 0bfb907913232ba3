import { numbered, safeName } from "../../pipeline/deliver/fileName";
import { readNaming } from "../store/caption";
import { db } from "../store/db";
import { readOriginal } from "../store/originals";
import { sidecarsOf } from "../store/sidecars";
import type { Frame, Shoot } from "../store/records";
import { storedAppearance } from "./appearances";
import { BACKUP_VERSION, SHOOT_FILE, SHOOTS_FOLDER, type ShootFile } from "./format";

/** A file that goes into a backup; a blob is read when its turn comes. */
export interface GatheredFile {
  path: string;
  content: Blob | string;
  /** of an original, which is known by it */
  sha256?: string;
}

/** A shoot's files, with its own file last. */
export interface GatheredShoot {
  shoot: Shoot;
  folder: string;
  frames: number;
  stacks: number;
  files: GatheredFile[];
}

/** Gives out paths that no other has, with a number where it is needed. */
export class FreePaths {
  private readonly taken = new Set<string>();
  take(wanted: string): string {
    let path = wanted;
    for (let n = 2; this.taken.has(path.toLowerCase()); n++) path = numbered(wanted, n);
    this.taken.add(path.toLowerCase());
    return path;
  }
}

/** Where a frame's file goes: as it was on the card, its folder with it. */
function originalPath({ info }: Frame): string {
  const folders = (info.folder ?? "").split(/[\\/]/).filter((part) => part && part !== "..");
  return [...folders, info.name].map(safeName).join("/");
}

/**
 * All that belongs to a shoot, as the files of a backup.
 *
 * @param folders      of the backup: no two shoots get the same
 * @param withHistory  what can be undone goes along
 */
export async function gatherShoot(
  shoot: Shoot,
  folders: FreePaths,
  withHistory: boolean,
): Promise<GatheredShoot> {
  const d = await db();
  const folder = folders.take(`${SHOOTS_FOLDER}/${safeName(shoot.name)}`);
  const [frames, stacks, takes, results, history] = await Promise.all([
    d.getAllFromIndex("frames", "shootId", shoot.id),
    d.getAllFromIndex("stacks", "shootId", shoot.id),
    d.getAllFromIndex("takes", "shootId", shoot.id),
    d.getAllFromIndex("results", "shootId", shoot.id),
    withHistory ? d.getAllFromIndex("history", "shootId", shoot.id) : [],
  ]);
  const files: GatheredFile[] = [];
  const paths = new FreePaths();
  const add = (path: string, content: Blob | string, sha256?: string): string => {
    const free = paths.take(`${folder}/${path}`);
    files.push({ path: free, content, ...(sha256 ? { sha256 } : {}) });
    return free;
  };
  const originals: ShootFile["originals"] = {};
  const thumbnails: ShootFile["thumbnails"] = {};
  const appearances: ShootFile["appearances"] = {};
  for (const frame of frames) {
    const { hash } = frame;
    if (hash in originals) continue;
    const [original, thumbnail, appearance] = await Promise.all([
      // one that stayed on the disk and cannot be read now is named when it is restored
      readOriginal(frame).catch(() => undefined),
      d.get("thumbnails", hash),
      d.get("appearances", hash),
    ]);
    if (original) originals[hash] = add(`originals/${originalPath(frame)}`, original, hash);
    if (thumbnail) thumbnails[hash] = add(`thumbnails/${hash}.jpg`, thumbnail);
    if (appearance) appearances[hash] = storedAppearance(appearance);
  }
  for (const { frame, name, text } of sidecarsOf(frames, stacks, await readNaming())) {
    const path = originals[frame.hash];
    if (path) add(`${path.slice(folder.length + 1, path.lastIndexOf("/"))}/${name}`, text());
  }
  const names = new Map(stacks.map(({ id, name }) => [id, name]));
  const shown = results.map(({ picture, ...result }) => ({
    ...result,
    picture: add(`results/${safeName(names.get(result.id) ?? "result")}.jpg`, picture),
  }));
  const file: ShootFile = {
    version: BACKUP_VERSION,
    shoot,
    frames,
    stacks,
    takes,
    results: shown,
    history: history as never,
    originals,
    thumbnails,
    appearances,
  };
  files.push({ path: `${folder}/${SHOOT_FILE}`, content: JSON.stringify(file, null, 1) });
  return { shoot, folder, frames: frames.length, stacks: stacks.length, files };
}
