import { random } from "../math/random";
import { focusOrder, isOrdered, settledOrder, travelFaults } from "./focusOrder";
import type { SharpMap } from "./sharpMap";

/**
 * Maps of a run over a slope: each frame sharp in a band, more or less textured from place to
 * place.
 */
function run(n: number, seed: number): SharpMap[] {
  const rnd = random(seed);
  const texture = Float32Array.from({ length: 32 * 20 }, () => rnd() * 3);
  return Array.from({ length: n }, (_, k) => ({
    width: 32,
    height: 20,
    values: Float32Array.from(
      { length: 32 * 20 },
      (_v, i) =>
        texture[i]! - 12 * ((Math.floor(i / 32) + 0.5) / 20 - (k + 0.5) / n) ** 2 * 6 + rnd() * 0.1,
    ),
  }));
}

test.each([8, 12, 30])("a run of %d frames is put in order, wherever it was shuffled to", (n) => {
  const maps = run(n, n);
  const rnd = random(9);
  const places = maps.map((_, i) => i).sort(() => rnd() - 0.5);
  const { order } = focusOrder(places.map((p) => maps[p]!));
  const found = order.map((i) => places[i]!);
  expect(isOrdered(found) || isOrdered([...found].reverse())).toBe(true);
});

test("focus distances in the files put a shuffled run in order, nearest first; distances that the pixels belie are not believed", () => {
  const maps = run(12, 2);
  const rnd = random(4);
  const places = maps.map((_, i) => i).sort(() => rnd() - 0.5);
  const shuffled = places.map((p) => maps[p]!);
  const by = (distance: (focus: number) => number | undefined) =>
    focusOrder(shuffled, places.map(distance));
  const stated = by((focus) => 0.3 + 0.02 * focus);
  const found = stated.order.map((i) => places[i]!);
  expect(stated.from).toBe("distances");
  expect([found, [...found].reverse()]).toContainEqual(maps.map((_, i) => i));
  // the same two distances in turn, one file that does not tell, and a camera that writes nothing
  // but 0
  for (const wrong of [
    by((focus) => 0.3 + 0.1 * (focus % 2)),
    by((focus) => (focus === 5 ? undefined : 0.3 + 0.02 * focus)),
    by(() => 0),
  ]) {
    expect(wrong.from).toBe("pixels");
    const order = wrong.order.map((i) => places[i]!);
    expect(isOrdered(order) || isOrdered([...order].reverse())).toBe(true);
  }
  // in its own order a run stays, whatever coarse distances say
  expect(
    focusOrder(
      maps,
      maps.map((_, i) => 0.3 + 0.1 * Math.floor(i / 4)),
    ),
  ).toMatchObject({ from: "given", order: maps.map((_, i) => i) });
});

test("once frames lie on each other, a given order that was right stands against one that a hand's sway made shorter; one that was not does not", () => {
  const maps = run(40, 5);
  const rnd = random(6);
  const swayed = maps.map((_, i) => i).sort((a, b) => a - b + 8 * (rnd() - 0.5));
  expect(isOrdered(swayed)).toBe(false);
  const given = maps.map((_, i) => i);
  expect(
    settledOrder(maps, { order: swayed, from: "pixels", stated: { order: given, from: "given" } }),
  ).toEqual({ order: given, from: "given" });
  const places = maps.map((_, i) => i).sort(() => rnd() - 0.5);
  const shuffled = places.map((p) => maps[p]!);
  const { order, from } = settledOrder(shuffled, focusOrder(shuffled));
  const found = order.map((i) => places[i]!);
  expect(from).toBe("pixels");
  expect(isOrdered(found) || isOrdered([...found].reverse())).toBe(true);
  // and so does what the files tell of the focus, whatever the frames' order
  const byFocus = given.map((focus) => places.indexOf(focus));
  const distances = { order: byFocus, from: "distances" as const };
  expect(
    settledOrder(shuffled, {
      order: swayed.map((focus) => byFocus[focus]!),
      from: "pixels",
      stated: distances,
    }),
  ).toEqual(distances);
});

test("a run in its own order is left so, and a frame without anything sharp is named", () => {
  const maps = run(10, 3);
  maps[4] = { ...maps[4]!, values: maps[4]!.values.map((v) => v - 6) };
  expect(focusOrder(maps).blurred).toEqual([4]);
  expect(isOrdered(focusOrder(run(10, 4)).order)).toBe(true);
});

test("a travel there and back again is put together, and the frames that show a focus again are reported", () => {
  const there = run(12, 5);
  const rnd = random(31);
  const back = there
    .slice(1, -1)
    .reverse()
    .map((m): SharpMap => ({ ...m, values: m.values.map((v) => v + rnd() * 0.1) }));
  const maps = [...there, ...back];
  const { order } = focusOrder(maps);
  const focusOf = (i: number): number => (i < 12 ? i : 22 - i);
  const along = order.map(focusOf);
  expect(
    along.every((f, k) => k === 0 || f >= along[k - 1]!) ||
      along.every((f, k) => k === 0 || f <= along[k - 1]!),
  ).toBe(true);
  const { gaps, twice } = travelFaults(maps, order);
  expect(gaps).toEqual([]);
  expect(twice.length).toBe(10);
  for (const [a, b] of twice) expect(focusOf(a)).toBe(focusOf(b));
});

test("a step that was missed and a focus taken twice are reported; an even run has neither", () => {
  const even = run(14, 6);
  const all = even.map((_, i) => i);
  expect(travelFaults(even, all)).toEqual({ gaps: [], twice: [] });
  const missed = even.filter((_, i) => i !== 6 && i !== 7);
  expect(
    travelFaults(
      missed,
      missed.map((_, i) => i),
    ).gaps,
  ).toEqual([5]);
  const twice = [
    ...even.slice(0, 9),
    { ...even[8]!, values: even[8]!.values.map((v, i) => v + 0.02 * Math.sin(i)) },
    ...even.slice(9),
  ];
  expect(
    travelFaults(
      twice,
      twice.map((_, i) => i),
    ).twice,
  ).toEqual([[8, 9]]);
});

test("once it shows that a travel was turned back, a frame a little beside its like is reported, too; frames half a step beside all others are wanted", () => {
  const fine = run(881, 5);
  const rnd = random(8);
  const at = (f: number): SharpMap => ({
    ...fine[f]!,
    values: fine[f]!.values.map((v) => v + rnd() * 0.1),
  });
  const there = Array.from({ length: 12 }, (_, k) => at(80 * k));
  const stated = (beside: (k: number) => number): number => {
    const maps = [
      ...there,
      ...Array.from({ length: 10 }, (_, j) => at(80 * (10 - j) + beside(10 - j))),
    ];
    return travelFaults(maps, focusOrder(maps).order).twice.length;
  };
  expect(stated(() => 0)).toBe(10);
  // of a step of 80, two fifths beside: by itself it would pass for one between
  for (const k of [3, 4, 5, 6, 7])
    expect([stated((j) => (j === k ? 32 : 0)), stated((j) => (j === k ? 40 : 0))]).toEqual([10, 9]);
  expect(stated(() => 40)).toBe(0);
});
