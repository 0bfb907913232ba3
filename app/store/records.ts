import type { Patch } from "immer";
import * as v from "valibot";
import { FrameInfoSchema } from "../../core/frame/frame";
import { LookSchema, MOST_AMOUNT } from "../../pipeline/looks/look";
import { RecipeSchema } from "../../pipeline/recipe/recipe";

/** A look and how far it goes. */
const UsualLook = v.strictObject({
  look: LookSchema,
  amount: v.pipe(v.number(), v.minValue(0), v.maxValue(MOST_AMOUNT)),
});

export const ShootSchema = v.object({
  id: v.string(),
  name: v.string(),
  createdAt: v.number(),
  /** restoring it was begun and is not done */
  partial: v.optional(v.boolean()),
  /** what its user says of it */
  note: v.optional(v.pipe(v.string(), v.maxLength(2000))),
  /** the stack whose picture stands for it */
  coverId: v.optional(v.string()),
  /** how new stacks' frames are prepared; read as any recipe is */
  prepare: v.optional(v.record(v.string(), v.unknown())),
  /** the looks that new stacks begin with: of a kind, or of all */
  looks: v.optional(
    v.partial(
      v.strictObject({ all: UsualLook, bracket: UsualLook, panorama: UsualLook, focus: UsualLook }),
    ),
  ),
});
export type Shoot = v.InferOutput<typeof ShootSchema>;

/** `hash` is the content's: the key of its original and its thumbnail. */
export const FrameSchema = v.object({
  id: v.string(),
  shootId: v.string(),
  hash: v.string(),
  size: v.number(),
  info: FrameInfoSchema,
  /** where its file lies on the disk, if it stayed there: below a folder that was chosen */
  link: v.optional(
    v.object({
      folder: v.string(),
      path: v.pipe(v.array(v.string()), v.minLength(1)),
      /** when the file was written last, ms since 1970 */
      modified: v.number(),
    }),
  ),
});
export type Frame = v.InferOutput<typeof FrameSchema>;

/** Labels a stack may carry, in words. */
export const LABELS = ["none", "keep", "check", "redo"] as const;

export const StackSchema = v.object({
  id: v.string(),
  shootId: v.string(),
  kind: v.picklist(["bracket", "panorama", "focus", "single"]),
  name: v.string(),
  order: v.number(),
  /** of a nested stack none of its own: they are its members' */
  frameIds: v.array(v.string()),
  why: v.string(),
  warnings: v.array(v.object({ code: v.string(), message: v.string() })),
  /** the take that is delivered, and shown on the board */
  takeId: v.string(),
  /** the stack that this one is a member of */
  parentId: v.optional(v.string()),
  /** of a panorama: which places of its order make a row */
  rows: v.optional(v.array(v.array(v.number()))),
  coverId: v.optional(v.string()),
  rating: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(5)), 0),
  label: v.optional(v.picklist(LABELS), "none"),
  note: v.optional(v.string(), ""),
  done: v.optional(v.boolean(), false),
  /** suspects that were looked at and found good */
  accepted: v.optional(v.array(v.string()), () => []),
  /** put together or cut manually: grouping again leaves it alone */
  madeManually: v.optional(v.boolean(), false),
});
export type Stack = v.InferOutput<typeof StackSchema>;

export const TakeSchema = v.object({
  id: v.string(),
  stackId: v.string(),
  shootId: v.string(),
  name: v.pipe(v.string(), v.maxLength(120)),
  /** what it is for, in the user's words */
  note: v.optional(v.pipe(v.string(), v.maxLength(2000)), ""),
  /** its place among the stack's takes */
  order: v.optional(v.number(), 0),
  recipe: RecipeSchema,
});
export type Take = v.InferOutput<typeof TakeSchema>;
/** Words and place of a take as it may be stored: earlier versions had none. */
export const TakeWordsSchema = v.pick(TakeSchema, ["note", "order"]);
/** The same as it may be stored: a recipe of an earlier version is brought up where it is read. */
export const StoredTakeSchema = v.object({
  ...TakeSchema.entries,
  recipe: v.custom<Take["recipe"]>((recipe) => typeof recipe === "object" && recipe !== null),
});

/** The small picture of a stack's last merge; `key` tells what it was made from. */
export const ResultSchema = v.object({
  id: v.string(),
  shootId: v.string(),
  key: v.string(),
  picture: v.instance(Blob),
  /** of the picture at full size, px; earlier versions did not keep it */
  size: v.optional(v.object({ width: v.number(), height: v.number() })),
  rangeEv: v.number(),
  residualPx: v.number(),
});
export type Result = v.InferOutput<typeof ResultSchema>;

/** A look of the user's own. */
export const OwnLookSchema = v.object({
  id: v.string(),
  /** when it was kept first; looks stand in this order */
  at: v.number(),
  look: LookSchema,
});
export type OwnLook = v.InferOutput<typeof OwnLookSchema>;

/** A file of a delivery that was begun; `whole` once it is written. */
const WrittenSchema = v.object({ name: v.string(), whole: v.boolean() });

/** Why a delivery failed, and what to do. */
const FailureSchema = v.object({ code: v.string(), message: v.string(), remedy: v.string() });

/** A stack's delivery that is not done yet, so that a reload does not lose it. */
export const QueuedSchema = v.object({
  id: v.string(),
  shootId: v.string(),
  stackId: v.string(),
  /** its place in the tray */
  order: v.number(),
  /** what was begun together: where results are downloads, it comes as one */
  run: v.object({ id: v.string(), name: v.string(), stacks: v.number() }),
  /** the stack's name */
  name: v.string(),
  /** as it was when the delivery was asked for; read as any recipe is */
  recipe: v.custom<Take["recipe"]>((recipe) => typeof recipe === "object" && recipe !== null),
  /** of the files, one for each that the recipe asks for; over the whole run none is twice */
  names: v.pipe(v.array(v.string()), v.minLength(1)),
  /** by the place of the file */
  written: v.record(v.string(), WrittenSchema),
  failed: v.optional(FailureSchema),
});
export type Queued = v.InferOutput<typeof QueuedSchema>;

/**
 * What can be undone: records of these stores. Originals, thumbnails and results are never changed,
 * only added.
 */
export const UNDOABLE = ["shoots", "frames", "stacks", "takes"] as const;
export type Undoable = (typeof UNDOABLE)[number];
/** A record that was added, removed, or changed by patches. */
export interface Mutation {
  store: Undoable;
  id: string;
  before?: unknown;
  after?: unknown;
  forth?: Patch[];
  back?: Patch[];
}

/** A change of a shoot that can be undone, or was. `undone` is 0 or 1, to be found by index. */
export interface HistoryEntry {
  id: number;
  shootId: string;
  label: string;
  mutations: Mutation[];
  undone: 0 | 1;
}

export const SCHEMAS = {
  shoots: ShootSchema,
  frames: FrameSchema,
  stacks: StackSchema,
  takes: TakeSchema,
} as const;
export interface RecordOf {
  shoots: Shoot;
  frames: Frame;
  stacks: Stack;
  takes: Take;
}
