import { marksOfFrames } from "../../pipeline/deliver/marks";
import { captureOrder } from "../../core/grouping/captureOrder";
import type { ComparedPairs } from "../../core/grouping/pairStatistics";
import type { FoundStack } from "../../core/grouping/foundStack";
import {
  defaultRecipe,
  nestedRecipe,
  parseRecipe,
  type Recipe,
} from "../../pipeline/recipe/recipe";
import { applyLook } from "../../pipeline/looks/applyLook";
import { isMerged } from "../../pipeline/recipe/kinds";
import { pool } from "../work/pool";
import { readNaming } from "./caption";
import type { Put } from "./changes";
import { db } from "./db";
import { LABELS, type Frame, type Shoot, type Stack } from "./records";

export const newId = (): string => crypto.randomUUID();

/** A stack's name from its first and last file. */
export function nameOf(frames: readonly Frame[]): string {
  const stem = (f: Frame | undefined): string => (f?.info.name ?? "").replace(/\.\w+$/, "");
  const first = stem(frames[0]);
  const last = stem(frames.at(-1));
  return first === last ? first : `${first} to ${last.replace(/^\D+/, "") || last}`;
}

/**
 * The label that a stack's frames came with, if it is one of ours; words of other programs stay in
 * the files.
 */
export function labelOf(frames: readonly Frame[]): Stack["label"] {
  const words = frames.flatMap((f) => f.info.exif.label?.toLowerCase() ?? []);
  return LABELS.find((l) => l !== "none" && words.includes(l)) ?? "none";
}

/**
 * A recipe that begins as the shoot's frames are prepared; what was drawn on one view is no part of
 * it, nor what no longer fits.
 */
export function preparedAs(recipe: Recipe, prepare: Shoot["prepare"]): Recipe {
  if (!prepare) return recipe;
  try {
    return parseRecipe({ ...recipe, prepare: { ...recipe.prepare, ...prepare, local: [] } });
  } catch {
    return recipe;
  }
}

/**
 * Which of the stacks there were carries on as which of those now found: the one with the same
 * frames, else the one most of whose frames are in it, since frames that come later make a stack
 * grow and somebody may have it open or set something for it.
 *
 * @param found  the frames' ids of each
 */
export function carriedOn(
  found: readonly (readonly string[])[],
  before: readonly Stack[],
): (Stack | undefined)[] {
  const free = new Set(before.filter((s) => s.frameIds.length));
  const take = (s: Stack | undefined): Stack | undefined => {
    if (s) free.delete(s);
    return s;
  };
  const same = found.map((ids) => take([...free].find((s) => s.frameIds.join() === ids.join())));
  return found.map((ids, i) => {
    if (same[i]) return same[i];
    const shared = (s: Stack): number => s.frameIds.filter((id) => ids.includes(id)).length;
    const [likest] = [...free].sort((a, b) => shared(b) - shared(a));
    return take(likest && shared(likest) * 2 > likest.frameIds.length ? likest : undefined);
  });
}

/** The recipe that a stack that was found begins with. */
function recipeFor({ kind, members }: FoundStack): Recipe {
  if (!isMerged(kind)) return defaultRecipe("bracket");
  return members ? nestedRecipe(kind) : defaultRecipe(kind);
}

/** A new recipe with the look that its shoot begins stacks of its kind with. */
function withUsualLook(recipe: Recipe, looks: Shoot["looks"]): Recipe {
  const usual = looks?.[recipe.kind] ?? looks?.all;
  return usual ? applyLook(recipe, usual.look, usual.amount) : recipe;
}

/**
 * Groups some of a shoot's frames: what stood of them before goes, unless most of it is found again
 * together; all stacks are numbered in the order of their taking.
 *
 * @param frames    all of the shoot's
 * @param existing  all of the shoot's
 * @param which     ids of the frames to group
 * @param pairs     what is known of pairs of frames, by their hashes; what is found is added to it
 */
export async function arrange(
  shootId: string,
  frames: readonly Frame[],
  existing: readonly Stack[],
  which: ReadonlySet<string>,
  pairs: ComparedPairs = new Map(),
): Promise<Put[]> {
  const d = await db();
  const own = frames.filter((f) => which.has(f.id));
  const naming = await readNaming();
  const shoot = await d.get("shoots", shootId);
  const named = (recipe: Recipe): Recipe =>
    preparedAs({ ...recipe, deliver: { ...recipe.deliver, ...naming } }, shoot?.prepare);
  const signatures = await Promise.all(own.map((f) => d.get("appearances", f.hash)));
  const grouped = own.length
    ? await pool().run("group", {
        frames: own.map((f) => f.info),
        signatures,
        compared: { keys: own.map((f) => f.hash), pairs },
      })
    : undefined;
  const found = grouped?.stacks ?? [];
  for (const [key, pair] of grouped?.pairs ?? []) pairs.set(key, pair);
  const place = new Map(
    captureOrder(frames.map((f) => f.info))
      .flat()
      .map((i, at) => [frames[i]!.id, at]),
  );
  const going = existing.filter((s) =>
    s.frameIds.length
      ? s.frameIds.every((id) => which.has(id))
      : existing
          .filter((m) => m.parentId === s.id)
          .every((m) => m.frameIds.every((id) => which.has(id))),
  );
  const leaves = found.flatMap((f) => f.members ?? f).map((f) => f.frames.map((k) => own[k]!.id));
  const was = carriedOn(leaves, going);
  const carried = new Map(leaves.map((ids, i) => [ids.join(), was[i]]));
  const kept = new Set<string>();
  const puts: Put[] = [];
  const stacks: Stack[] = existing.filter((s) => !going.includes(s));
  const add = (f: FoundStack, parentId?: string): void => {
    const members = f.frames.map((k) => own[k]!);
    const ids = f.members ? [] : members.map((m) => m.id);
    const same = f.members ? undefined : carried.get(ids.join());
    const id = same ? same.id : newId();
    const takeId = same ? same.takeId : newId();
    const facts = {
      kind: f.kind,
      why: f.why,
      warnings: f.warnings,
      ...(f.rows ? { rows: f.rows } : {}),
      ...(parentId ? { parentId } : {}),
    };
    if (same) {
      const still: Stack = { ...same };
      delete still.parentId;
      delete still.rows;
      kept.add(id);
      stacks.push({
        ...still,
        ...facts,
        ...(same.frameIds.join() === ids.join() ? {} : { name: nameOf(members), frameIds: ids }),
      });
    } else {
      const { rating, description } = marksOfFrames(members);
      stacks.push({
        id,
        shootId,
        name: nameOf(members),
        order: 0,
        frameIds: ids,
        takeId,
        rating,
        label: labelOf(members),
        note: description,
        done: false,
        accepted: [],
        madeManually: false,
        ...facts,
      });
      puts.push({
        store: "takes",
        value: {
          id: takeId,
          stackId: id,
          shootId,
          name: "First",
          note: "",
          order: 0,
          recipe: withUsualLook(named(recipeFor(f)), shoot?.looks),
        },
      });
    }
    for (const m of f.members ?? []) add(m, id);
  };
  for (const f of found) add(f);
  const takes = await d.getAllFromIndex("takes", "shootId", shootId);
  for (const s of going)
    if (!kept.has(s.id))
      puts.push(
        { store: "stacks", remove: s.id },
        ...takes
          .filter((take) => take.stackId === s.id)
          .map((take): Put => ({ store: "takes", remove: take.id })),
      );
  const firstOf = (s: Stack): number =>
    Math.min(
      ...(s.frameIds.length
        ? s.frameIds
        : stacks.filter((m) => m.parentId === s.id).flatMap((m) => m.frameIds)
      ).map((id) => place.get(id) ?? Infinity),
    ) - (s.frameIds.length ? 0 : 0.5);
  const before = new Map(existing.map((s) => [s.id, s]));
  stacks
    .map((s) => ({ s, at: firstOf(s) }))
    .sort((a, b) => a.at - b.at)
    .forEach(({ s }, order) => {
      const value = { ...s, order };
      if (JSON.stringify(before.get(s.id)) !== JSON.stringify(value))
        puts.push({ store: "stacks", value });
    });
  return puts;
}
