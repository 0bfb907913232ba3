import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { isMerged } from "../../pipeline/recipe/kinds";
import { change } from "./changes";
import { db } from "./db";
import { exclusively } from "./exclusive";
import { ShootSchema, type Frame, type Shoot, type Stack } from "./records";

/** What the shelf knows of a stack. */
export interface ShelfStack extends Pick<
  Stack,
  "id" | "name" | "kind" | "rating" | "label" | "note" | "done"
> {
  isMerged: boolean;
  /** it yields a picture that is not made yet */
  isToMerge: boolean;
  /** something about it deserves a look */
  isOdd: boolean;
  /** when its first frame was taken, s since 1970 */
  takenAt: number | undefined;
  /** names of its frames' files */
  files: readonly string[];
  /** its result, or one of its frames */
  picture: Blob | undefined;
}

export interface ShelfEntry {
  shoot: Shoot;
  frames: number;
  stacks: number;
  /** stacks that are not merged yet */
  fresh: number;
  /** stacks that are called done */
  done: number;
  bytes: number;
  /** when its first frame was taken, s since 1970 */
  takenAt: number | undefined;
  /** the chosen cover, or its first results */
  pictures: Blob[];
  stackList: readonly ShelfStack[];
}

/** Pictures that stand for a shoot without a cover. */
const PICTURES = 4;

const earliest = (frames: readonly (Frame | undefined)[]): number | undefined => {
  const times = frames.flatMap((frame) => frame?.info.exif.takenAt ?? []);
  return times.length ? Math.min(...times) : undefined;
};

/** All shoots with what is in them, the newest first. */
export async function listShelf(): Promise<ShelfEntry[]> {
  const shoots = (await (await db()).getAll("shoots")).sort((a, b) => b.createdAt - a.createdAt);
  return Promise.all(shoots.map(entryOf));
}

async function entryOf(shoot: Shoot): Promise<ShelfEntry> {
  const d = await db();
  const [frames, stacks, results] = await Promise.all([
    d.getAllFromIndex("frames", "shootId", shoot.id),
    d.getAllFromIndex("stacks", "shootId", shoot.id),
    d.getAllFromIndex("results", "shootId", shoot.id),
  ]);
  const merged = new Map(results.map(({ id, picture }) => [id, picture]));
  const byId = new Map(frames.map((frame) => [frame.id, frame]));
  const { store: thumbnails } = d.transaction("thumbnails");
  const stackList = await Promise.all(
    stacks
      .sort((a, b) => a.order - b.order)
      .map(async (stack): Promise<ShelfStack> => {
        const own = stack.frameIds.map((id) => byId.get(id));
        const middle = own[own.length >> 1];
        const { id, name, kind, rating, label, note, done } = stack;
        const facts = { id, name, kind, rating, label, note, done };
        return {
          ...facts,
          isMerged: merged.has(id),
          isToMerge: isMerged(kind) && !merged.has(id),
          isOdd: stack.warnings.length > 0,
          takenAt: earliest(own),
          files: own.flatMap((frame) => frame?.info.name ?? []),
          picture: merged.get(id) ?? (middle && (await thumbnails.get(middle.hash))),
        };
      }),
  );
  const cover = stackList.find(({ id }) => id === shoot.coverId)?.picture;
  const first = stackList.slice(0, PICTURES).flatMap(({ picture }) => picture ?? []);
  return {
    shoot,
    frames: frames.length,
    stacks: stacks.length,
    fresh: stackList.filter(({ isToMerge }) => isToMerge).length,
    done: stackList.filter(({ done }) => done).length,
    bytes: frames.reduce((n, { size }) => n + size, 0),
    takenAt: earliest(frames),
    pictures: cover ? [cover] : first,
    stackList,
  };
}

/** What is said of a shoot by its user. */
export const ShootWordsSchema = v.partial(
  v.object({
    name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(120)),
    note: v.pipe(v.string(), v.maxLength(2000)),
    coverId: v.string(),
  }),
);
export type ShootWords = v.InferOutput<typeof ShootWordsSchema>;

/** Names a shoot, notes something of it, or chooses its cover; undone on its board. */
export function describeShoot(shootId: string, words: ShootWords): Promise<void> {
  return exclusively(async (writer) => {
    const shoot = await (await db()).get("shoots", shootId);
    if (!shoot)
      throw new RhizomeError("shoot-unknown", "This shoot is gone.", "go back to the shelf");
    const value = v.parse(ShootSchema, { ...shoot, ...words });
    const what = words.name === undefined ? "Describe the shoot" : `Name “${words.name}”`;
    await change(writer, shootId, what, [{ store: "shoots", value }]);
  });
}
