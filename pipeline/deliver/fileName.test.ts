import {
  dayOf,
  fileName,
  safeName,
  unknownFields,
  withoutClashes,
  type NameFields,
} from "./fileName";

const fields: NameFields = {
  name: "Library",
  first: "QM_0417.jpg",
  last: "QM_0423.jpg",
  count: "7",
  kind: "bracket",
  take: "Evening",
  delivery: "Web",
  date: "2026-05-04",
  shoot: "Quillmoor",
  number: "003",
};

test.each([
  ["{name}", "Library"],
  ["{first}-{count}", "QM_0417-7"],
  ["{date}_{shoot}_{number} {delivery}", "2026-05-04_Quillmoor_003 Web"],
  ["{nothing}-{kind}", "_nothing_-bracket"],
  ["", "Library"],
  ["{delivery}/{name}", "Web/Library"],
  ["{date}/{kind}/{first}", "2026-05-04/bracket/QM_0417"],
  ["/{name}", "Library"],
  ["{delivery}/", "Web/Library"],
  ["../../{name}", "Library"],
  ["./ /a/{name}", "a/Library"],
  ["a\\b:{take}", "a_b_Evening"],
])("%s names a file %s", (pattern, name) => expect(fileName(pattern, fields)).toBe(name));

test("a slash in what a field says makes no folder", () => {
  const fieldsOf = { ...fields, name: "Hall / north", delivery: "../web" };
  expect(fileName("{delivery}/{name}", fieldsOf)).toBe("_web/Hall _ north");
});

test("fields that nobody knows are named", () => {
  expect(unknownFields("{name}-{size}-{lens}")).toEqual(["size", "lens"]);
  expect(unknownFields("{first}{last}{count}{kind}{take}{delivery}{date}{shoot}{number}")).toEqual(
    [],
  );
});

test.each(["...", "  ", "/", "\u0000"])("%p becomes a name all the same", (text) =>
  expect(safeName(text).length).toBeGreaterThan(0),
);
test("names are no longer than systems take", () =>
  expect(safeName("x".repeat(999)).length).toBeLessThan(200));

test("names that clash are told apart, in small letters and large ones", () => {
  expect(withoutClashes(["a.jpg", "A.jpg", "b.tif", "a.jpg", "a"])).toEqual([
    "a.jpg",
    "A-2.jpg",
    "b.tif",
    "a-3.jpg",
    "a",
  ]);
});

test("the day is the one of the camera's clock", () => {
  expect(dayOf(Date.UTC(2026, 4, 4, 23, 59) / 1000)).toBe("2026-05-04");
  expect(dayOf(undefined)).toBe("");
});
