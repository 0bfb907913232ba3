import * as v from "valibot";
import { BUILT_IN_LOOKS } from "../../pipeline/looks/builtIn";
import type { Look } from "../../pipeline/looks/look";
import { RhizomeError } from "../../core/error";
import { db, storageError } from "./db";
import { exclusively } from "./exclusive";
import { goodRecords, type BadRecord } from "./goodRecords";
import { OwnLookSchema, type OwnLook } from "./records";
import { freeName } from "./freeName";
import { tellTabs } from "./tabs";

/** A look as it is listed. */
export interface ListedLook {
  id: string;
  look: Look;
  /** the user's own can be changed and deleted */
  isOwn: boolean;
}

const BUILT_IN: readonly ListedLook[] = BUILT_IN_LOOKS.map((look) => ({
  id: `built-in ${look.name}`,
  look,
  isOwn: false,
}));

/** All looks, those that are built in first; records that cannot be read are left out and named. */
export async function readLooks(): Promise<{ looks: ListedLook[]; bad: BadRecord[] }> {
  const bad: BadRecord[] = [];
  const stored = goodRecords("look", OwnLookSchema, await (await db()).getAll("looks"), bad);
  const own = stored
    .sort((a, b) => a.at - b.at)
    .map(({ id, look }): ListedLook => ({ id, look, isOwn: true }));
  return { looks: [...BUILT_IN, ...own], bad };
}

/** Writes looks, and tells the other tabs. @throws RhizomeError as the storage says */
function write(work: () => Promise<void>): Promise<void> {
  return exclusively(async () => {
    await work();
    tellTabs({ what: "changed" });
  }).catch((e: unknown) => {
    throw storageError(e);
  });
}

/** Keeps new looks, each under a name of its own. */
export const addLooks = (looks: readonly Look[]): Promise<void> =>
  write(async () => {
    const d = await db();
    const taken = (await readLooks()).looks.map(({ look }) => look.name);
    const at = Date.now();
    for (const [i, look] of looks.entries()) {
      const name = freeName(taken, look.name);
      taken.push(name);
      const record = { id: crypto.randomUUID(), at: at + i, look: { ...look, name } };
      await d.put("looks", v.parse(OwnLookSchema, record));
    }
  });

/** Puts another look in the place of one of the user's own. @throws RhizomeError `look-unknown` */
export const updateLook = (id: string, more: Partial<Look>): Promise<void> =>
  write(async () => {
    const d = await db();
    const was = await d.get("looks", id);
    if (!was) throw new RhizomeError("look-unknown", "This look is gone.", "reload the page");
    await d.put("looks", v.parse(OwnLookSchema, { ...was, look: { ...was.look, ...more } }));
  });

/** Deletes one of the user's own. @returns what brings it back */
export async function deleteLook(id: string): Promise<OwnLook | undefined> {
  const was = await (await db()).get("looks", id);
  await write(async () => (await db()).delete("looks", id));
  return was;
}

/** Brings back a look that was deleted. */
export const restoreLook = (was: OwnLook): Promise<void> =>
  write(async () => {
    await (await db()).put("looks", v.parse(OwnLookSchema, was));
  });
