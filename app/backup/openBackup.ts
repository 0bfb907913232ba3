import * as v from "valibot";
import { readStored } from "../../codecs/zip";
import { RhizomeError } from "../../core/error";
import { checksum } from "./checksum";
import {
  BACKUP_VERSION,
  INDEX,
  IndexSchema,
  SHOOT_FILE,
  SHOOTS_FOLDER,
  ShootFileSchema,
  type BackupIndex,
  type ShootFile,
} from "./format";
import { salvage } from "./salvage";

/** A shoot in a backup. */
export interface BackedUpShoot {
  folder: string;
  file: ShootFile;
}

/** A backup that was opened. */
export interface OpenedBackup {
  /** ms since 1970, where that can be read */
  madeAt: number | undefined;
  shoots: BackedUpShoot[];
  /** what is not whole, in sentences */
  problems: string[];
  /** a file whose content is what it was; undefined if it is missing or damaged */
  read(path: string, sha256?: string): Promise<Blob | undefined>;
  /** a file of JSON; undefined if it is missing or damaged */
  json(path: string): Promise<unknown>;
}

/** The files of a zip by their paths: by its index, or where that is broken, by their own headers. */
async function filesOf(
  blob: Blob,
  name: string,
  problems: string[],
): Promise<Map<string, () => Promise<Blob>>> {
  try {
    return await readStored(blob, name);
  } catch {
    problems.push(`${name} is damaged: what is whole in it was looked for.`);
    const found = await salvage(blob);
    return new Map([...found].map(([path, content]) => [path, () => Promise.resolve(content)]));
  }
}

function checkVersion(version: number, name: string): void {
  if (version <= BACKUP_VERSION) return;
  throw new RhizomeError(
    "backup-newer",
    `${name} was made by a newer Rhizome.`,
    "bring this Rhizome up to date, then restore it",
  );
}

/**
 * Opens a backup. Nothing is read but its own lists; pictures are read when they are asked for.
 *
 * @throws RhizomeError `not-a-backup`, `backup-newer`
 */
export async function openBackup(blob: Blob, name: string): Promise<OpenedBackup> {
  const problems: string[] = [];
  const files = await filesOf(blob, name, problems);
  const text = async (path: string): Promise<string | undefined> =>
    (
      await files
        .get(path)?.()
        .catch(() => undefined)
    )?.text();
  const json = async (path: string): Promise<unknown> => {
    try {
      return JSON.parse((await text(path)) ?? "") as unknown;
    } catch {
      return undefined;
    }
  };
  const index = v.safeParse(IndexSchema, await json(INDEX));
  if (index.success) checkVersion(index.output.version, name);
  const shoots: BackedUpShoot[] = [];
  for (const folder of shootFolders(files.keys(), index.success ? index.output : undefined)) {
    const read = v.safeParse(ShootFileSchema, await json(`${folder}/${SHOOT_FILE}`));
    if (read.success) {
      checkVersion(read.output.version, name);
      shoots.push({ folder, file: read.output });
    } else
      problems.push(
        `What is said of the shoot in ${folder} is damaged: unpack ${name} and bring in its originals.`,
      );
  }
  const isBackup = index.success || shoots.length > 0 || [...files.keys()].some(isInShoot);
  if (!isBackup)
    throw new RhizomeError(
      "not-a-backup",
      `${name} is not a backup of Rhizome.`,
      "choose a zip that was made on this screen",
    );
  const sums = new Map(
    index.success ? index.output.files.map(({ path, sha256 }) => [path, sha256]) : [],
  );
  return {
    madeAt: index.success ? index.output.madeAt : undefined,
    shoots,
    problems,
    json,
    async read(path, sha256 = sums.get(path)) {
      const content = await files
        .get(path)?.()
        .catch(() => undefined);
      if (!content || (sha256 !== undefined && (await checksum(content)) !== sha256))
        return undefined;
      return content;
    },
  };
}

const isInShoot = (path: string): boolean => path.startsWith(`${SHOOTS_FOLDER}/`);

/** The folders of shoots: those of the index, and those that files lie in. */
function shootFolders(paths: Iterable<string>, index: BackupIndex | undefined): string[] {
  const ending = `/${SHOOT_FILE}`;
  const found = [...paths].filter((path) => path.endsWith(ending));
  const folders = found.map((path) => path.slice(0, -ending.length));
  return [...new Set([...(index?.shoots.map(({ folder }) => folder) ?? []), ...folders])];
}
