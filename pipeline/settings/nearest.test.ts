import { nearestName, nearestSaid } from "./nearest";

const KNOWN = ["recipe", "format", "quality", "tone.strength"];

test.each([
  ["recpie", "recipe"],
  ["fromat", "format"],
  ["tone.strenght", "tone.strength"],
])("%s was meant for %s", (wrong, right) => expect(nearestName(wrong, KNOWN)).toBe(right));

test.each(["q", "zzzz", "something else"])("%s is like none of them", (wrong) => {
  expect(nearestName(wrong, KNOWN)).toBeUndefined();
  expect(nearestSaid(wrong, KNOWN)).toBe("");
});

test("among none there is none", () => expect(nearestName("a", [])).toBeUndefined());
