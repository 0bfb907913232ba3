import * as v from "valibot";
import { BUILT_IN_DELIVERIES } from "../../pipeline/deliver/deliveries";
import { fileSettings } from "../../pipeline/deliver/settings";
import { defaultRecipe } from "../../pipeline/recipe/recipe";
import {
  changeDelivery,
  DeliveryChangeSchema,
  MAIN_FILE,
  type DeliveryChange,
} from "./changeDelivery";
import type { Arrangement, Edit } from "./edit";
import { StackSchema, type Stack, type Take } from "./records";

const WEB = BUILT_IN_DELIVERIES.find(({ name }) => name === "Web")!;
const stackNamed = (id: string): Stack =>
  v.parse(StackSchema, {
    id,
    shootId: "s",
    kind: "bracket",
    name: id,
    order: 0,
    frameIds: [],
    why: "found",
    warnings: [],
    takeId: `take ${id}`,
  });
const takeOf = ({ id, takeId }: Stack): Take => ({
  id: takeId,
  stackId: id,
  shootId: "s",
  name: "First",
  note: "",
  order: 0,
  recipe: defaultRecipe("bracket"),
});

/** Two stacks, and what becomes of them by changes, one after the other. */
function two() {
  const stacks = ["a", "b"].map(stackNamed);
  const arrangement: Arrangement = {
    stacks,
    takes: new Map(stacks.map((stack) => [stack.takeId, takeOf(stack)])),
    newId: () => "new",
    nameOf: () => "",
  };
  return {
    apply(change: DeliveryChange, ids = ["a", "b"]): Edit {
      const edit = changeDelivery(
        arrangement,
        stacks.filter(({ id }) => ids.includes(id)),
        change,
      );
      for (const put of edit.puts)
        if (put.store === "takes" && "value" in put)
          (arrangement.takes as Map<string, Take>).set(put.value.id, put.value);
      return edit;
    },
    deliver: (id: string) => arrangement.takes.get(`take ${id}`)!.recipe.deliver,
  };
}

test("a delivery is added to all, switched in one, and set where it is", () => {
  const { apply, deliver } = two();
  apply({ what: "add", delivery: WEB });
  apply({ what: "switch", name: "Web", on: false }, ["b"]);
  expect(deliver("a").also[0]).toMatchObject({ name: "Web", on: true });
  expect(deliver("b").also[0]).toMatchObject({ name: "Web", on: false });
  const set: DeliveryChange = {
    what: "set",
    name: "Web",
    label: "Quality",
    settings: { quality: 70 },
  };
  expect(apply(set).label).toBe("Quality of Web, 2 stacks");
  expect(deliver("b").also[0]!.settings.quality).toBe(70);
  // the rest of it, and the main file, stay
  expect(deliver("b").also[0]!.settings.size).toBe(WEB.settings.size);
  expect(deliver("b").quality).toBe(fileSettings.defaults.quality);
});

test("the main file is set like any other, and others are not lost by it", () => {
  const { apply, deliver } = two();
  apply({ what: "add", delivery: WEB });
  apply({ what: "set", name: MAIN_FILE, label: "Format", settings: { format: "tif" } });
  expect(deliver("a")).toMatchObject({ format: "tif", also: [{ name: "Web" }] });
});

test("adding it where it is switches it on, and keeps how it is set there", () => {
  const { apply, deliver } = two();
  apply({ what: "add", delivery: WEB }, ["a"]);
  apply({ what: "set", name: "Web", label: "", settings: { quality: 60 } });
  apply({ what: "switch", name: "Web", on: false });
  apply({ what: "add", delivery: WEB });
  expect(deliver("a").also).toMatchObject([{ on: true, settings: { quality: 60 } }]);
  expect(deliver("b").also).toMatchObject([{ on: true, settings: WEB.settings }]);
});

test("names stay apart, and a deleted one is gone", () => {
  const { apply, deliver } = two();
  apply({ what: "add", delivery: WEB });
  apply({ what: "add", delivery: { ...WEB, name: "Small" } });
  expect(apply({ what: "rename", name: "Small", to: "Web" }).puts).toEqual([]);
  apply({ what: "rename", name: "Small", to: "Tiny" });
  apply({ what: "delete", name: "Web" });
  expect(deliver("a").also.map(({ name }) => name)).toEqual(["Tiny"]);
});

test("what is nothing, or nobody knows, is refused", () => {
  const { apply } = two();
  expect(() =>
    apply({ what: "set", name: MAIN_FILE, label: "", settings: { quality: 500 } }),
  ).toThrow();
  for (const change of [
    { what: "set", name: "", label: "", settings: { nonsense: 1 } },
    { what: "switch", name: "", on: false },
    { what: "delete", name: "" },
    { what: "explode" },
    { what: "add", delivery: { name: "", settings: {} } },
  ])
    expect(v.safeParse(DeliveryChangeSchema, change).success).toBe(false);
});
