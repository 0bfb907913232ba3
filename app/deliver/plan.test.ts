import * as v from "valibot";
import { BUILT_IN_DELIVERIES } from "../../pipeline/deliver/deliveries";
import { defaultRecipe, type Recipe } from "../../pipeline/recipe/recipe";
import { StackSchema, type Frame, type Stack, type Take } from "../store/records";
import type { BoardData } from "../store/shoots";
import { orderSheet } from "./orderSheet";
import { planOf } from "./plan";

const frame = (id: string): Frame => ({
  id,
  shootId: "s",
  hash: `hash ${id}`,
  size: 1,
  info: {
    name: `${id}.jpg`,
    format: "jpeg",
    width: 6000,
    height: 4000,
    depth: 8,
    profile: "sRGB",
    exif: {},
  },
});
const stack = (id: string, part: Partial<Stack> = {}): Stack =>
  v.parse(StackSchema, {
    id,
    shootId: "s",
    kind: "bracket",
    name: id,
    order: 0,
    frameIds: [`${id}1`, `${id}2`, `${id}3`],
    why: "found",
    warnings: [],
    takeId: `take ${id}`,
    ...part,
  });
const delivered = (part: Partial<Recipe["deliver"]>): Recipe => {
  const recipe = defaultRecipe("bracket");
  return { ...recipe, deliver: { ...recipe.deliver, ...part } };
};

/** A shoot of some stacks, each delivered as said. */
function boardOf(stacks: Stack[], recipes: Record<string, Recipe> = {}): BoardData {
  const takes = stacks.map((one): Take => ({
    id: one.takeId,
    stackId: one.id,
    shootId: "s",
    name: "First",
    note: "",
    order: 0,
    recipe: recipes[one.id] ?? defaultRecipe("bracket"),
  }));
  return {
    shoot: { id: "s", name: "Quillmoor", createdAt: 0 },
    frames: stacks.flatMap(({ frameIds }) => frameIds).map(frame),
    stacks,
    takes: new Map(takes.map((take) => [take.id, take])),
    takesOf: new Map(),
    results: new Map(),
    thumbnails: new Map(),
    loose: 0,
    bad: [],
    closed: [],
  };
}
const machine = { budget: 2 ** 31, pace: {}, weights: {} };
const WEB = BUILT_IN_DELIVERIES.find(({ name }) => name === "Web")!;
const none = new Set<string>();

test("singles stay at home, and so do members, for they go out in their panorama", () => {
  const board = boardOf([
    stack("a"),
    stack("b", { kind: "single", frameIds: ["b1"] }),
    stack("row", { kind: "panorama", frameIds: [] }),
    stack("c", { parentId: "row" }),
    stack("d", { parentId: "row" }),
  ]);
  const { stacks } = planOf(board, undefined, none, machine);
  expect(stacks.map(({ stack: { id } }) => id)).toEqual(["a", "row"]);
  // its frames are its members' results, named after them
  expect(stacks[1]!.infos.map(({ name }) => name)).toEqual(["c", "d"]);
});

test("columns are the main file and all others that any has; what is off has no name and is not made", () => {
  const board = boardOf([stack("a"), stack("b")], {
    a: delivered({ also: [WEB] }),
    b: delivered({ also: [{ ...WEB, on: false }] }),
  });
  const plan = planOf(board, undefined, none, machine);
  expect(plan.columns).toEqual(["", "Web"]);
  expect(plan.files).toBe(3);
  const [a, b] = plan.stacks;
  expect(a!.cells.get("Web")).toMatchObject({ name: "a-web.jpg" });
  expect(a!.cells.get("Web")!.layout.file).toEqual({ width: 2048, height: 1365 });
  expect(b!.cells.get("Web")!.name).toBe("");
});

test("names that clash are seen beforehand and told apart; what stays at home clashes with nothing", () => {
  const same = delivered({ pattern: "{kind}" });
  const board = boardOf([stack("a"), stack("b")], { a: same, b: same });
  const plan = planOf(board, undefined, none, machine);
  expect(plan.clashes).toEqual(["bracket.jpg"]);
  expect(plan.stacks.map(({ cells }) => cells.get("")!.name)).toEqual([
    "bracket.jpg",
    "bracket-2.jpg",
  ]);
  const one = planOf(board, undefined, new Set(["a"]), machine);
  expect(one).toMatchObject({ files: 1, clashes: [] });
  expect(planOf(board, new Set(["b"]), none, machine).stacks).toHaveLength(1);
});

test("more frames are expected to take longer", () => {
  const many = Array.from({ length: 9 }, (_, i) => `b${i}`);
  const board = boardOf([stack("a"), stack("b", { frameIds: many })]);
  const [a, b] = planOf(board, undefined, none, machine).stacks;
  expect(b!.expected.ms).toBeGreaterThan(a!.expected.ms);
  expect(a!.expected.bytes).toBeGreaterThan(0);
});

test("an order sheet has a line for each print, and none for what is not printed", () => {
  const print = {
    ...WEB,
    name: "Print",
    settings: { ...WEB.settings, paper: "30x45 cm", margin: 10, pattern: "{name}-print" },
  };
  const board = boardOf([stack("a"), stack("b"), stack("c")], {
    a: delivered({ also: [print] }),
    b: delivered({ also: [{ ...print, on: false }] }),
  });
  const plan = planOf(board, undefined, none, machine);
  const lines = orderSheet("Quillmoor", plan, "Print").trim().split("\n");
  expect(lines[0]).toBe("Quillmoor, 1 print");
  expect(lines).toHaveLength(2);
  expect(lines[1]).toContain("a-print.jpg\tpaper 45.0 x 30.0 cm\tpicture 42.0 x 28.0 cm");
});
