import * as v from "valibot";
import type { Part } from "../../core/finish/part";
import { range } from "../../core/math/range";
import { ADJUSTMENT_FIELDS, ADJUSTMENT_GROUP_NAMES } from "./adjustmentFields";

const share = range(-0.5, 1.5);
const point = v.tuple([share, share]);
const points = v.pipe(v.array(point), v.minLength(1), v.maxLength(4000));
const reach = range(0.001, 2);

const joining = { joining: v.picklist(["add", "subtract", "intersect"]) };

/** A shape of a part, with how it joins those before it. */
export const ShapeSchema = v.variant("type", [
  v.strictObject({ ...joining, type: v.literal("outline"), points }),
  v.strictObject({
    ...joining,
    type: v.literal("brush"),
    points,
    radius: range(0.0005, 0.5),
    softness: range(0, 1),
    flow: range(0.05, 1),
    edgeAware: v.boolean(),
  }),
  v.strictObject({ ...joining, type: v.literal("gradient"), from: point, to: point }),
  v.strictObject({
    ...joining,
    type: v.literal("ellipse"),
    centre: point,
    radii: v.tuple([range(0.002, 2), range(0.002, 2)]),
    angle: range(-180, 180),
    feather: range(0, 1),
  }),
  v.strictObject({
    ...joining,
    type: v.literal("tones"),
    from: range(-20, 20),
    to: range(-20, 20),
    fade: range(0.05, 4),
  }),
  v.strictObject({
    ...joining,
    type: v.literal("colours"),
    hue: range(0, 360),
    reach: range(5, 180),
    least: range(0, 0.3),
  }),
  v.strictObject({
    ...joining,
    type: v.literal("sample"),
    at: point,
    like: v.strictObject({
      light: range(-40, 40),
      a: range(-1, 1),
      b: range(-1, 1),
      texture: range(0, 20),
    }),
    reach,
    tolerance: range(0.1, 5),
  }),
  v.strictObject({ ...joining, type: v.literal("sky") }),
]);

export type KeptShape = v.InferOutput<typeof ShapeSchema>;

const adjustmentEntries = Object.fromEntries(
  Object.entries(ADJUSTMENT_FIELDS).map(([key, field]) => [key, field.schema]),
) as { [K in keyof typeof ADJUSTMENT_FIELDS]: (typeof ADJUSTMENT_FIELDS)[K]["schema"] };

/** A group of adjustments by its name. */
export const GroupSchema = v.picklist(ADJUSTMENT_GROUP_NAMES);

/** A part as recipes keep it: of its adjustments only those that are set. */
export const PartSchema = v.strictObject({
  id: v.pipe(v.string(), v.minLength(1), v.maxLength(60)),
  name: v.pipe(v.string(), v.maxLength(80)),
  on: v.boolean(),
  amount: range(0, 1),
  inverted: v.boolean(),
  feather: range(0, 0.2),
  shapes: v.pipe(v.array(ShapeSchema), v.minLength(1), v.maxLength(200)),
  /** groups of its adjustments that are kept and do nothing */
  off: v.optional(v.array(GroupSchema), []),
  adjustments: v.partial(v.strictObject(adjustmentEntries)),
}) satisfies v.GenericSchema<unknown, Part>;
export type KeptPart = v.InferOutput<typeof PartSchema>;
