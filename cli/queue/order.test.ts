import { orderOf, placeOf } from "./order";

const NOW = new Date(2026, 10, 30, 22, 0).getTime();
const HOUR = 3_600_000;

test("a time of day is the next one that the clock shows", () => {
  expect(orderOf({ due: "23:30" }, NOW).due).toBe(NOW + 1.5 * HOUR);
  expect(orderOf({ due: "7:00" }, NOW).due).toBe(NOW + 9 * HOUR);
  expect(orderOf({ due: "2026-12-02T22:00" }, NOW).due).toBe(NOW + 48 * HOUR);
});

test("what is due earlier goes first, and nobody waits for ever", () => {
  const places = [
    { priority: "first" },
    { due: "23:00" },
    { due: "07:00" },
    {},
    { due: "2026-12-03T22:00", priority: "last" },
    { priority: "last" },
  ].map((when) => placeOf(orderOf(when, NOW)));
  expect(places).toEqual([...places].sort((a, b) => a - b));
  expect(new Set(places).size).toBe(places.length);
  // what came last a week ago goes before what is usual today
  const before = placeOf(orderOf({ priority: "last" }, NOW - 8 * 24 * HOUR));
  expect(before).toBeLessThan(placeOf(orderOf({ priority: "first" }, NOW)));
  expect(places.every((place) => place >= 1 && place <= 2 ** 21)).toBe(true);
});

test.each([
  [{ due: "soon" }, "--due"],
  [{ due: "25:00" }, "--due"],
  [{ due: "2020-01-01T00:00" }, "to come"],
  [{ priority: "high" }, "first, usual, last"],
])("%j is refused by name", (when, said) => {
  expect(() => orderOf(when, NOW)).toThrow(said);
});
