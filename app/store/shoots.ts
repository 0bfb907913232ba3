import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { asKind, parseRecipe, type Recipe } from "../../pipeline/recipe/recipe";
import { isMerged } from "../../pipeline/recipe/kinds";
import { middleExposure } from "../../core/frame/middleExposure";
import { memberContent, memberInfo } from "../../pipeline/memberResults";
import { db, storageError } from "./db";
import { beginBlobReading } from "./heldBlobs";
import { exclusively } from "./exclusive";
import { goodRecords, type BadRecord } from "./goodRecords";
import { tellTabs } from "./tabs";
import { closedFolders, type ClosedFolder } from "./linkedFolders";
import { readOriginals } from "./originals";
import { resultFolderKey } from "./resultFolderKey";
import { inOrder } from "./takes";
import {
  FrameSchema,
  ResultSchema,
  StackSchema,
  StoredTakeSchema,
  TakeWordsSchema,
  type Frame,
  type Result,
  type Shoot,
  type Stack,
  type Take,
} from "./records";

/** All shoots, the newest first. */
export async function allShoots(): Promise<Shoot[]> {
  return (await (await db()).getAll("shoots")).sort((a, b) => b.createdAt - a.createdAt);
}

/**
 * A take's recipe in the form that its stack's kind asks for, which may have been changed since.
 */
const recipeOf = (take: Pick<Take, "recipe">, kind: Stack["kind"] | undefined): Recipe =>
  asKind(parseRecipe(take.recipe), kind && isMerged(kind) ? kind : "bracket");

/** A take with its recipe as this version knows it, by its id; one that cannot be read is set aside. */
function readTake(take: Take, stacks: readonly Stack[], bad: BadRecord[]): [[string, Take]] | [] {
  try {
    const kind = stacks.find((stack) => stack.id === take.stackId)?.kind;
    return [[take.id, { ...take, recipe: recipeOf(take, kind) }]];
  } catch (e) {
    bad.push({ what: "take", id: take.id, why: RhizomeError.from(e).message });
    return [];
  }
}

export interface BoardData {
  shoot: Shoot;
  frames: Frame[];
  stacks: Stack[];
  takes: Map<string, Take>;
  /** how many takes each stack has */
  takesOf: Map<string, number>;
  results: Map<string, Result>;
  thumbnails: Map<string, Blob>;
  /** brought in, but not yet in a stack */
  loose: number;
  /** records that could not be read and are left out */
  bad: BadRecord[];
  /** folders of the disk in which frames lie, and which may not be read now */
  closed: ClosedFolder[];
}

export async function readBoard(shootId: string): Promise<BoardData> {
  const d = await db();
  const shoot = await d.get("shoots", shootId);
  if (!shoot)
    throw new RhizomeError(
      "shoot-unknown",
      "This shoot is not in this browser's storage.",
      "go back to the shelf",
    );
  const stored = await Promise.all([
    d.getAllFromIndex("frames", "shootId", shootId),
    d.getAllFromIndex("stacks", "shootId", shootId),
    d.getAllFromIndex("takes", "shootId", shootId),
    d.getAllFromIndex("results", "shootId", shootId),
  ]);
  const bad: BadRecord[] = [];
  const frames = goodRecords("frame", FrameSchema, stored[0], bad);
  const stacks = goodRecords("stack", StackSchema, stored[1], bad);
  const takes = goodRecords("take", StoredTakeSchema, stored[2], bad);
  const results = goodRecords("result", ResultSchema, stored[3], bad);
  const placed = new Set(stacks.flatMap((s) => s.frameIds));
  // one transaction for all: each costs as much as reading a picture
  const thumbnails = new Map<string, Blob>();
  const reading = beginBlobReading();
  const { store } = d.transaction("thumbnails");
  await Promise.all(
    frames.map(async ({ hash }) => {
      const known = reading.known(hash);
      const thumbnail = known ?? (await store.get(hash));
      if (thumbnail) thumbnails.set(hash, reading.hold(hash, thumbnail));
    }),
  );
  const shown = results.map((result): [string, Result] => {
    const picture = reading.hold(`${result.id} ${result.key}`, result.picture);
    return [result.id, { ...result, picture }];
  });
  reading.end();
  return {
    shoot,
    frames,
    stacks: stacks.sort((a, b) => a.order - b.order),
    takes: new Map(takes.flatMap((take) => readTake(take, stacks, bad))),
    takesOf: countBy(takes.map(({ stackId }) => stackId)),
    loose: frames.filter((f) => !placed.has(f.id)).length,
    results: new Map(shown),
    thumbnails,
    bad,
    closed: await closedFolders(frames),
  };
}

/** How often each of some names occurs. */
function countBy(names: readonly string[]): Map<string, number> {
  const counts = new Map<string, number>();
  for (const name of names) counts.set(name, (counts.get(name) ?? 0) + 1);
  return counts;
}

/**
 * Frames of the same camera and size from other stacks, the middle exposure of each, with their
 * files: so many other scenes.
 */
export async function otherScenes(
  shootId: string,
  stackId: string,
  like: Frame,
  most: number,
): Promise<{ frames: Frame[]; originals: Map<string, Blob> }> {
  const d = await db();
  const byId = new Map(
    (await d.getAllFromIndex("frames", "shootId", shootId)).map((f) => [f.id, f]),
  );
  const { width, height, exif } = like.info;
  const stacks = (await d.getAllFromIndex("stacks", "shootId", shootId)).filter(
    (s) => s.id !== stackId,
  );
  const frames = stacks
    .flatMap((s) => {
      return (
        middleExposure(
          s.frameIds
            .flatMap((id) => byId.get(id) ?? [])
            .filter(
              ({ info }) =>
                info.width === width && info.height === height && info.exif.camera === exif.camera,
            ),
        ) ?? []
      );
    })
    .slice(0, most);
  return { frames, originals: (await readOriginals(frames)).originals };
}

/** A frame of a stack at work: one that was taken, or the result of a member. */
export interface WorkFrame extends Frame {
  merged?: { frames: Frame[]; recipe: Recipe };
}

/**
 * The result of a nested stack's member as a frame: named after the member, lying where its
 * reference frame lies. One frame stands for itself.
 */
export function memberFrames({
  stack,
  frames,
  take,
}: {
  stack: Stack;
  frames: Frame[];
  take: Take | undefined;
}): WorkFrame[] {
  if (frames.length < 2 || !take || !isMerged(stack.kind)) return frames;
  const recipe = recipeOf(take, stack.kind);
  const contents = frames.map((f) => f.hash);
  return [
    {
      id: stack.id,
      shootId: stack.shootId,
      hash: memberContent(contents, recipe),
      size: 0,
      info: memberInfo(stack.name, frames),
      merged: { frames, recipe },
    },
  ];
}

export interface StackData {
  shoot: Shoot;
  stack: Stack;
  /** the one that is open */
  take: Take;
  /** all of the stack, in their order */
  takes: Take[];
  frames: WorkFrame[];
  originals: Map<string, Blob>;
  /** what is said of frames whose files cannot be read */
  unread: RhizomeError[];
  /** folders of the disk in which frames lie, and which may not be read now */
  closed: ClosedFolder[];
  result?: Result;
  previous?: string;
  next?: string;
}

/** @param takeId  the take to open; the one that is delivered if not given, or gone */
export async function readStack(
  shootId: string,
  stackId: string,
  takeId?: string,
): Promise<StackData> {
  const d = await db();
  const [shoot, stack] = await Promise.all([d.get("shoots", shootId), d.get("stacks", stackId)]);
  if (!shoot || !stack || stack.shootId !== shootId)
    throw new RhizomeError(
      "stack-unknown",
      "This stack is not in this browser's storage.",
      "go back to the shelf",
    );
  const takes = (await d.getAllFromIndex("takes", "shootId", shootId))
    .filter((t) => t.stackId === stackId)
    .map((t): Take => ({ ...t, ...v.parse(TakeWordsSchema, t), recipe: recipeOf(t, stack.kind) }));
  const take =
    takes.find((t) => t.id === takeId) ?? takes.find((t) => t.id === stack.takeId) ?? takes[0];
  const members = (await d.getAllFromIndex("stacks", "shootId", shootId))
    .filter((s) => s.parentId === stackId)
    .sort((a, b) => a.order - b.order);
  const read = async (ids: readonly string[]): Promise<Frame[]> =>
    (await Promise.all(ids.map((id) => d.get("frames", id)))).filter(
      (f): f is Frame => f !== undefined,
    );
  const nested = await Promise.all(
    members.map(async (m) => ({
      stack: m,
      frames: await read(m.frameIds),
      take: await d.get("takes", m.takeId),
    })),
  );
  const frames: WorkFrame[] = [
    ...(await read(stack.frameIds)),
    ...nested.flatMap((m) => memberFrames(m)),
  ];
  if (!take || !frames.length)
    throw new RhizomeError(
      "stack-broken",
      "Parts of this stack are missing from the storage.",
      "bring the frames in again",
    );
  const taken = [...frames, ...frames.flatMap((f) => f.merged?.frames ?? [])].filter(
    (frame) => !("merged" in frame),
  );
  const { originals, unread } = await readOriginals(taken);
  const result = await d.get("results", stackId);
  const order = (await d.getAllFromIndex("stacks", "shootId", shootId))
    .sort((a, b) => a.order - b.order)
    .map((s) => s.id);
  const at = order.indexOf(stackId);
  const [previous, next] = [order[at - 1], order[at + 1]];
  return {
    shoot,
    stack: v.parse(StackSchema, stack),
    take,
    takes: inOrder(takes),
    frames,
    originals,
    unread,
    closed: await closedFolders(taken),
    ...(result ? { result } : {}),
    ...(previous ? { previous } : {}),
    ...(next ? { next } : {}),
  };
}

/** Keeps the picture of a stack's merge, unless the stack is gone meanwhile. */
export function keepResult(result: Result): Promise<void> {
  const checked = v.parse(ResultSchema, result);
  return exclusively(async () => {
    const tx = (await db()).transaction(["stacks", "results"], "readwrite");
    if (await tx.objectStore("stacks").getKey(checked.id))
      await tx.objectStore("results").put(checked);
    await tx.done;
  }).catch((e: unknown) => {
    throw storageError(e);
  });
}

/** Deletes a shoot with everything that only it uses. Not undone: the user was asked. */
export function deleteShoot(shootId: string): Promise<void> {
  return exclusively(async () => {
    await removeShoot(shootId);
    tellTabs({ what: "shoot deleted", shoot: shootId });
  });
}

async function removeShoot(shootId: string): Promise<void> {
  const d = await db();
  const tx = d.transaction(
    [
      "shoots",
      "frames",
      "stacks",
      "takes",
      "results",
      "history",
      "queue",
      "originals",
      "thumbnails",
      "appearances",
      "settings",
    ],
    "readwrite",
  );
  const own = await tx.objectStore("frames").index("shootId").getAll(shootId);
  const others = new Set(
    (await tx.objectStore("frames").getAll())
      .filter((f) => f.shootId !== shootId)
      .map((f) => f.hash),
  );
  for (const f of own)
    if (!others.has(f.hash)) {
      await tx.objectStore("originals").delete(f.hash);
      await tx.objectStore("thumbnails").delete(f.hash);
      await tx.objectStore("appearances").delete(f.hash);
    }
  for (const name of ["frames", "stacks", "takes", "results", "history", "queue"] as const) {
    for (const key of await tx.objectStore(name).index("shootId").getAllKeys(shootId))
      await tx.objectStore(name).delete(key as never);
  }
  await tx.objectStore("settings").delete(resultFolderKey(shootId));
  await tx.objectStore("shoots").delete(shootId);
  await tx.done;
}
