import * as v from "valibot";
import { BACKUP_INDEX } from "../../codecs/zip";

/** Raised when a backup is laid out anew; older ones are read. */
export const BACKUP_VERSION = 1;
/** The first file of a backup: what is in it. */
export const INDEX = BACKUP_INDEX;
export const LOOKS = "looks.json";
export const DELIVERIES = "deliveries.json";
/** The file of a shoot in its folder. */
export const SHOOT_FILE = "shoot.json";
export const SHOOTS_FOLDER = "shoots";

/** A file of a backup, with what it is checked by. */
const FileSchema = v.object({
  path: v.string(),
  bytes: v.number(),
  /** the first 32 hexadecimal digits of its SHA-256 */
  sha256: v.string(),
});
export type BackupFile = v.InferOutput<typeof FileSchema>;

const ListedShootSchema = v.object({
  id: v.string(),
  name: v.string(),
  /** its folder in the zip */
  folder: v.string(),
  frames: v.number(),
  stacks: v.number(),
});
export type ListedShoot = v.InferOutput<typeof ListedShootSchema>;

export const IndexSchema = v.object({
  format: v.literal("rhizome backup"),
  version: v.pipe(v.number(), v.integer(), v.minValue(1)),
  /** ms since 1970 */
  madeAt: v.number(),
  shoots: v.array(ListedShootSchema),
  files: v.array(FileSchema),
});
export type BackupIndex = v.InferOutput<typeof IndexSchema>;

const Records = v.array(v.record(v.string(), v.unknown()));
const Paths = v.record(v.string(), v.string());

/**
 * A shoot as it is kept in a backup. Its records are those of the storage, which are read as what is
 * stored is: older ones are brought up, and what cannot be read is named.
 */
export const ShootFileSchema = v.object({
  version: v.pipe(v.number(), v.integer(), v.minValue(1)),
  shoot: v.record(v.string(), v.unknown()),
  frames: Records,
  stacks: Records,
  takes: Records,
  /** each with the path of its small picture */
  results: Records,
  /** what can be undone, where that was wanted */
  history: v.optional(Records, () => []),
  /** paths by the hash of the frame's content; one without was not at hand */
  originals: Paths,
  thumbnails: Paths,
  /** what grouping compares, by the hash, as base64 */
  appearances: v.optional(v.record(v.string(), v.unknown()), () => ({})),
});
export type ShootFile = v.InferOutput<typeof ShootFileSchema>;
