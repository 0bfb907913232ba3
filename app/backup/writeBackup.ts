import { ZipOut } from "../../codecs/zipWriter";
import { stopped } from "../../runtime/stopped";
import { db } from "../store/db";
import { checksum } from "./checksum";
import {
  BACKUP_VERSION,
  DELIVERIES,
  INDEX,
  LOOKS,
  type BackupFile,
  type BackupIndex,
} from "./format";
import { FreePaths, gatherShoot, type GatheredFile, type GatheredShoot } from "./gather";

export interface BackupOptions {
  shoots: readonly string[];
  withHistory: boolean;
  /** own looks and deliveries go along */
  withOwn: boolean;
}

/** What is kept beside the shoots. */
async function gatherOwn(): Promise<GatheredFile[]> {
  const d = await db();
  const looks = await d.getAll("looks");
  const deliveries: unknown = (await d.get("settings", "deliveries")) ?? [];
  return [
    { path: LOOKS, content: JSON.stringify(looks, null, 1) },
    { path: DELIVERIES, content: JSON.stringify(deliveries, null, 1) },
  ];
}

const sizeOf = (content: Blob | string): number =>
  typeof content === "string" ? new TextEncoder().encode(content).length : content.size;

async function listed({ path, content, sha256 }: GatheredFile): Promise<BackupFile> {
  return { path, bytes: sizeOf(content), sha256: sha256 ?? (await checksum(content)) };
}

/**
 * Writes shoots as one zip of open formats, a file at a time: originals as they came in, results as
 * JPEG, all else as JSON. Its first file lists the others, with checksums, so that a damaged zip
 * gives back what is whole.
 *
 * @param sink    takes the zip; it is closed at the end, and aborted when something fails
 * @param report  how far it is, 0 to 1
 * @throws RhizomeError `stopped`; what the sink throws
 */
export async function writeBackup(
  options: BackupOptions,
  sink: WritableStream<Uint8Array<ArrayBuffer>>,
  report: (share: number, doing: string) => void,
  signal: AbortSignal,
): Promise<BackupIndex> {
  const d = await db();
  const all = await d.getAll("shoots");
  const folders = new FreePaths();
  const shoots: GatheredShoot[] = [];
  for (const shoot of all.filter(({ id }) => options.shoots.includes(id)))
    shoots.push(await gatherShoot(shoot, folders, options.withHistory));
  const files = [
    ...(options.withOwn ? await gatherOwn() : []),
    // each shoot's own file before its pictures: it says what they are
    ...shoots.flatMap((gathered) => [gathered.files.at(-1)!, ...gathered.files.slice(0, -1)]),
  ];
  const index: BackupIndex = {
    format: "rhizome backup",
    version: BACKUP_VERSION,
    madeAt: Date.now(),
    shoots: shoots.map(({ shoot: { id, name }, folder, frames, stacks }) => ({
      id,
      name,
      folder,
      frames,
      stacks,
    })),
    files: [],
  };
  for (const file of files) index.files.push(await listed(file));
  const total = index.files.reduce((sum, { bytes }) => sum + bytes, 0);
  const zip = new ZipOut(sink);
  let written = 0;
  await zip.add(INDEX, JSON.stringify(index, null, 1));
  for (const [i, { path, content }] of files.entries()) {
    if (signal.aborted) throw stopped();
    report(written / Math.max(1, total), path.split("/").at(-1)!);
    await zip.add(path, content);
    written += index.files[i]!.bytes;
  }
  await zip.close();
  return index;
}
