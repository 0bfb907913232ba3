import * as v from "valibot";
import { range } from "../../core/math/range";
import type { Repair } from "../../core/retouch/repair";

const share = range(-0.1, 1.1);
const point = v.tuple([share, share]);
const radius = range(0.0003, 0.25);
const offset = range(-1.2, 1.2);

/** How soft the border of a clone is, where nothing else is said. */
const SOFTNESS = 0.3;

const ShapeSchema = v.variant("type", [
  v.strictObject({ type: v.literal("spot"), x: share, y: share, radius }),
  v.strictObject({
    type: v.literal("stroke"),
    points: v.pipe(v.array(point), v.minLength(1), v.maxLength(2000)),
    radius,
  }),
  v.strictObject({
    type: v.literal("outline"),
    points: v.pipe(v.array(point), v.minLength(3), v.maxLength(2000)),
  }),
]);

/** A repair as recipes keep it. */
export const RepairSchema = v.strictObject({
  kind: v.picklist(["heal", "clone", "fill"]),
  shape: ShapeSchema,
  source: v.optional(v.strictObject({ dx: offset, dy: offset })),
  softness: v.optional(range(0, 1), SOFTNESS),
  on: v.optional(v.boolean(), true),
}) satisfies v.GenericSchema<unknown, Repair>;
export type KeptRepair = v.InferOutput<typeof RepairSchema>;
