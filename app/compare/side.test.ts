import { parseSide, sideText, type SideChoice } from "./side";

test.each<SideChoice>([
  { what: "take", id: "t 1" },
  { what: "frame", id: "a:b" },
  { what: "look", id: "built-in Clear rooms", amount: 0.8 },
  { what: "stack", id: "shoot/stack" },
])("a side goes into an address and comes back: %p", (side) => {
  expect(parseSide(sideText(side))).toEqual(side);
});

test.each(["", "take", "take:", "polish:1", "look:x:9"])(
  "%p is no side, or one that can be shown",
  (text) => {
    const side = parseSide(text);
    expect(side === undefined || (side.what === "look" && side.amount === 1)).toBe(true);
  },
);
