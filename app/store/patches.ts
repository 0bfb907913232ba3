import { applyPatches, enablePatches, produceWithPatches, setAutoFreeze, type Patch } from "immer";
import * as v from "valibot";

enablePatches();
// records belong to those who made them
setAutoFreeze(false);

/** Patches as they are sent and stored. */
export const PatchesSchema = v.array(
  v.object({
    op: v.picklist(["replace", "remove", "add"]),
    path: v.array(v.union([v.string(), v.number()])),
    value: v.optional(v.unknown()),
  }),
);

type Plain = Record<string, unknown>;
const isPlain = (value: unknown): value is Plain =>
  typeof value === "object" && value !== null && !Array.isArray(value) && !(value instanceof Blob);

/** Makes one object like another, and touches only what differs. Lists are taken whole. */
function become(draft: Plain, to: Plain): void {
  for (const key of Object.keys(draft)) if (!(key in to)) delete draft[key];
  for (const [key, value] of Object.entries(to)) {
    const now = draft[key];
    if (isPlain(now) && isPlain(value)) become(now, value);
    else if (JSON.stringify(now) !== JSON.stringify(value)) draft[key] = value;
  }
}

/** The patches that lead from one record to another, and back. */
export function patchesBetween(before: object, after: object): { forth: Patch[]; back: Patch[] } {
  const [, forth, back] = produceWithPatches(before as Plain, (draft) =>
    become(draft as Plain, after as Plain),
  );
  return { forth, back };
}

/**
 * A record after patches. What else was changed in it since stays; what a patch is about and is gone
 * by now is passed over.
 */
export function patched<T extends object>(record: T, patches: readonly Patch[]): T {
  return patches.reduce((now: T, patch) => {
    try {
      return applyPatches(now, [patch]) as T;
    } catch {
      return now;
    }
  }, record);
}
