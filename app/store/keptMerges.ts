import * as v from "valibot";
import { db } from "./db";
import { exclusively } from "./exclusive";

const KEY = "kept merges limit";
const GIB = 2 ** 30;
/** Most that merges beside the shoots take, bytes; 0 keeps none. */
export const KEPT_LIMITS = [0, GIB, 3 * GIB, 10 * GIB, 30 * GIB] as const;
const USUAL_LIMIT = 3 * GIB;
/** Of what the browser grants they take a fifth at most. */
const LARGEST_SHARE = 1 / 5;

const LimitSchema = v.pipe(v.number(), v.minValue(0));

/** The limit that the user set, bytes. */
export async function keptLimit(): Promise<number> {
  const stored = v.safeParse(LimitSchema, await (await db()).get("settings", KEY));
  return stored.success ? stored.output : USUAL_LIMIT;
}

/** What merges may take at the moment, bytes. */
export async function resultCacheQuota(): Promise<number> {
  const limit = await keptLimit();
  const { quota } = (await navigator.storage?.estimate?.()) ?? {};
  return Math.min(limit, quota === undefined ? limit : quota * LARGEST_SHARE);
}

/** Sets the limit, and lets go of what is over it. */
export async function setKeptLimit(bytes: number): Promise<void> {
  const limit = v.parse(LimitSchema, bytes);
  await exclusively(async () => (await db()).put("settings", limit, KEY));
  await makeRoom(0, await resultCacheQuota());
}

/**
 * Lets go of merges that were used longest ago, until so much more fits.
 *
 * @param bytes  that are to be added
 * @param but    a key that stays
 */
export async function makeRoom(bytes: number, quota: number, but?: string): Promise<void> {
  const tx = (await db()).transaction(["kept", "keptUse"], "readwrite");
  const use = tx.objectStore("keptUse");
  const others = (await use.index("usedAt").getAll()).filter(({ key }) => key !== but);
  let total = bytes + others.reduce((sum, other) => sum + other.bytes, 0);
  for (const other of others) {
    if (total <= quota) break;
    await Promise.all([tx.objectStore("kept").delete(other.key), use.delete(other.key)]);
    total -= other.bytes;
  }
  await tx.done;
}

/** Hashes of frames' contents in a merge's key. */
const HASH = /[0-9a-f]{32}/g;

/** Bytes of kept merges by the shoot whose frames they were made of; of frames in none, under "". */
export async function keptByShoot(
  shootOf: ReadonlyMap<string, string>,
): Promise<Map<string, number>> {
  const kept = new Map<string, number>();
  for (const { key, bytes } of await (await db()).getAll("keptUse")) {
    const shoot = shootOfKey(key, shootOf);
    kept.set(shoot, (kept.get(shoot) ?? 0) + bytes);
  }
  return kept;
}

function shootOfKey(key: string, shootOf: ReadonlyMap<string, string>): string {
  for (const [hash] of key.matchAll(HASH)) {
    const shoot = shootOf.get(hash);
    if (shoot !== undefined) return shoot;
  }
  return "";
}

/** The shoots of frames by the hash of their content. */
export async function shootsByHash(): Promise<Map<string, string>> {
  const frames = await (await db()).getAll("frames");
  return new Map(frames.map(({ hash, shootId }) => [hash, shootId]));
}

/** Lets go of the kept merges of a shoot, or of all. They are made again when they are needed. */
export async function clearKept(shoot?: string): Promise<void> {
  const shootOf = await shootsByHash();
  const tx = (await db()).transaction(["kept", "keptUse"], "readwrite");
  for (const key of await tx.objectStore("keptUse").getAllKeys()) {
    if (shoot !== undefined && shootOfKey(key, shootOf) !== shoot) continue;
    await Promise.all([tx.objectStore("kept").delete(key), tx.objectStore("keptUse").delete(key)]);
  }
  await tx.done;
}
