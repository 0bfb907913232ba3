import * as v from "valibot";
import { DeliverySchema, fileSettings, type Delivery } from "../../pipeline/deliver/settings";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { Put } from "./changes";
import type { Arrangement, Edit } from "./edit";
import type { Stack } from "./records";

/** The name of the file that every stack has. */
export const MAIN_FILE = "";
/** A stack has at most so many files beside its main one. */
const MOST_FILES = 20;

const name = v.pipe(v.string(), v.maxLength(80));
const otherName = v.pipe(name, v.minLength(1));

/** What can be done with a delivery of many stacks at once. */
export const DeliveryChangeSchema = v.variant("what", [
  v.object({ what: v.literal("add"), delivery: DeliverySchema }),
  v.object({ what: v.literal("switch"), name: otherName, on: v.boolean() }),
  v.object({ what: v.literal("delete"), name: otherName }),
  v.object({ what: v.literal("rename"), name: otherName, to: otherName }),
  v.object({
    what: v.literal("set"),
    name,
    /** called so in the history */
    label: v.string(),
    settings: v.pipe(
      v.record(v.string(), v.unknown()),
      v.check((settings) => Object.keys(settings).every((key) => key in fileSettings.fields)),
    ),
  }),
]);
export type DeliveryChange = v.InferOutput<typeof DeliveryChangeSchema>;

type Deliver = Recipe["deliver"];

const withOther = (deliver: Deliver, of: string, change: (d: Delivery) => Delivery): Deliver => ({
  ...deliver,
  also: deliver.also.map((other) => (other.name === of ? change(other) : other)),
});

/** A stack's deliveries with a change. Settings that do not fit together are refused. */
function changed(deliver: Deliver, change: DeliveryChange): Deliver {
  switch (change.what) {
    case "add": {
      const { delivery } = change;
      if (deliver.also.some((other) => other.name === delivery.name))
        return withOther(deliver, delivery.name, (other) => ({ ...other, on: true }));
      if (deliver.also.length >= MOST_FILES) return deliver;
      return { ...deliver, also: [...deliver.also, { ...delivery, on: true }] };
    }
    case "switch":
      return withOther(deliver, change.name, (other) => ({ ...other, on: change.on }));
    case "delete":
      return { ...deliver, also: deliver.also.filter((other) => other.name !== change.name) };
    case "rename":
      if (deliver.also.some((other) => other.name === change.to)) return deliver;
      return withOther(deliver, change.name, (other) => ({ ...other, name: change.to }));
    case "set": {
      if (change.name === MAIN_FILE) {
        const own = v.parse(fileSettings.schema, { ...deliver, ...change.settings });
        return { ...own, also: deliver.also };
      }
      return withOther(deliver, change.name, (other) => ({
        ...other,
        settings: v.parse(fileSettings.schema, { ...other.settings, ...change.settings }),
      }));
    }
  }
}

/** What a change is called in the history. */
function labelOf(change: DeliveryChange, stacks: number): string {
  const on = `, ${stacks} ${stacks === 1 ? "stack" : "stacks"}`;
  switch (change.what) {
    case "add":
      return `Add ${change.delivery.name}${on}`;
    case "switch":
      return `${change.name} ${change.on ? "on" : "off"}${on}`;
    case "delete":
      return `Delete ${change.name}${on}`;
    case "rename":
      return `Rename ${change.name} to ${change.to}${on}`;
    case "set":
      return `${change.label}${change.name === MAIN_FILE ? "" : ` of ${change.name}`}${on}`;
  }
}

/** Changes a delivery of the delivered takes of stacks, where they have it. */
export function changeDelivery(
  a: Arrangement,
  stacks: readonly Stack[],
  change: DeliveryChange,
): Edit {
  const puts = stacks.flatMap((stack): Put[] => {
    const take = a.takes.get(stack.takeId);
    if (!take) return [];
    const deliver = changed(take.recipe.deliver, change);
    return JSON.stringify(deliver) === JSON.stringify(take.recipe.deliver)
      ? []
      : [{ store: "takes", value: { ...take, recipe: { ...take.recipe, deliver } } }];
  });
  return { label: labelOf(change, puts.length), puts };
}
