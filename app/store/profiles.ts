import * as v from "valibot";
import { printerProfileName } from "../../codecs/softProof";
import { RhizomeError } from "../../core/error";
import { contentHash } from "../../pipeline/contentHash";
import { db, storageError } from "./db";
import { exclusively } from "./exclusive";
import { tellTabs } from "./tabs";

const KEY = "profiles";
/** Where a profile's own bytes are. */
const bytesKey = (id: string): string => `profile ${id}`;
/** Most bytes of a profile; those of printers have 0.5 to 5 MB. */
const MOST_BYTES = 64e6;

const KeptProfileSchema = v.object({
  /** of its content */
  id: v.string(),
  name: v.string(),
});

/** A printer's profile that the user brought in. */
export type KeptProfile = v.InferOutput<typeof KeptProfileSchema>;

/** The profiles that were brought in, in that order; what cannot be read is left out. */
export async function readProfiles(): Promise<KeptProfile[]> {
  const stored = await (await db()).get("settings", KEY);
  return (Array.isArray(stored) ? stored : []).flatMap((profile) => {
    const read = v.safeParse(KeptProfileSchema, profile);
    return read.success ? [read.output] : [];
  });
}

const writeProfiles = (change: (kept: KeptProfile[]) => Promise<KeptProfile[]>): Promise<void> =>
  exclusively(async () => {
    const kept = await change(await readProfiles());
    await (await db()).put("settings", kept, KEY);
    tellTabs({ what: "changed" });
  }).catch((e: unknown) => {
    throw storageError(e);
  });

/**
 * Keeps a printer's profile.
 *
 * @throws RhizomeError `not-a-profile`, `storage-full`
 */
export async function keepProfile(file: File): Promise<KeptProfile> {
  if (file.size > MOST_BYTES)
    throw new RhizomeError(
      "not-a-profile",
      `${file.name} is too large to be a colour profile.`,
      "choose the ICC profile (.icc, .icm) of the paper",
    );
  const bytes = new Uint8Array(await file.arrayBuffer());
  const name = printerProfileName(bytes, file.name);
  const profile = { id: await contentHash(bytes), name };
  await writeProfiles(async (kept) => {
    await (await db()).put("settings", new Blob([bytes]), bytesKey(profile.id));
    return [...kept.filter(({ id }) => id !== profile.id), profile];
  });
  return profile;
}

/** Forgets a profile. */
export const dropProfile = (id: string): Promise<void> =>
  writeProfiles(async (kept) => {
    await (await db()).delete("settings", bytesKey(id));
    return kept.filter((profile) => profile.id !== id);
  });

/** The bytes of a profile; undefined where it is not there any more. */
export async function profileBytes(id: string): Promise<Uint8Array<ArrayBuffer> | undefined> {
  const stored = await (await db()).get("settings", bytesKey(id));
  return stored instanceof Blob ? new Uint8Array(await stored.arrayBuffer()) : undefined;
}
