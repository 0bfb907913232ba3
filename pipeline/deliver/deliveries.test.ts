import { builtInDelivery, BUILT_IN_DELIVERIES, parseDelivery } from "./deliveries";
import { fileSettings, filesOf } from "./settings";
import { defaultRecipe, parseRecipe } from "../recipe/recipe";

test.each(BUILT_IN_DELIVERIES.map((own) => [own.name, own] as const))(
  "%s is a delivery as files hold it, and no two write the same name",
  (name, own) => {
    expect(parseDelivery(JSON.parse(JSON.stringify(own)), "f.json")).toEqual(own);
    expect(builtInDelivery(name.toUpperCase())).toBe(own);
    const same = BUILT_IN_DELIVERIES.filter((o) => o.settings.pattern === own.settings.pattern);
    expect(same).toHaveLength(1);
  },
);

test("what is missing is as usual", () => {
  const read = parseDelivery({ name: "Mine", settings: { format: "png" } }, "f.json");
  expect(read).toEqual({
    name: "Mine",
    on: true,
    settings: { ...fileSettings.defaults, format: "png" },
  });
});

test.each([
  [undefined],
  [{}],
  [{ name: "", settings: {} }],
  [{ name: "a", settings: { colour: 1 } }],
  [{ name: "a", settings: { quality: 900 } }],
  [{ name: "a", settings: { size: "large" } }],
  [{ name: "a", settings: {}, extra: 1 }],
])("%j is none, and the file is named", (data) => {
  expect(() => parseDelivery(data, "mine.json")).toThrow(/mine\.json/);
});

test("a recipe asks for its own file and for those that are on", () => {
  const recipe = defaultRecipe("bracket");
  const [web, print] = [builtInDelivery("Web")!, builtInDelivery("Print")!];
  const deliver = { ...recipe.deliver, also: [web, { ...print, on: false }] };
  expect(filesOf(deliver).map(({ name }) => name)).toEqual(["", "Web"]);
  const read = parseRecipe(JSON.parse(JSON.stringify({ ...recipe, deliver })));
  expect(read.deliver.also).toEqual(deliver.also);
  // an older one bounded its longer edge
  const { size: _size, also: _also, ...older } = recipe.deliver;
  const before = { ...recipe, version: 16, deliver: { ...older, longEdge: 1600 } };
  expect(parseRecipe(before).deliver.size).toBe("long 1600");
  expect(parseRecipe({ ...before, deliver: { ...older, longEdge: 0 } }).deliver.size).toBe("full");
});
