import { Holding } from "./holding";

/** Memory of addresses 1, 2, 3 ..., and what became of them. */
function memory() {
  let next = 0;
  const live = new Set<number>();
  const twice: number[] = [];
  return {
    live,
    twice,
    idles: 0,
    take: () => {
      live.add(++next);
      return next;
    },
    give(at: number) {
      if (!live.delete(at)) twice.push(at);
    },
    async idle() {
      this.idles++;
      await Promise.resolve();
    },
  };
}

test("what was taken is given back once, and the rest with the drop, after all threads are idle", async () => {
  const work = memory();
  const holding = new Holding(work, work.take());
  const [a, b] = [holding.take(10), holding.take(20)];
  holding.give(a);
  holding.give(a);
  expect([...work.live]).toEqual([1, b]);
  await holding.drop();
  await holding.drop();
  expect([work.live.size, work.twice, work.idles]).toEqual([0, [], 2]);
});

test("what is named is kept, and can still be given back", () => {
  const work = memory();
  const holding = new Holding(work);
  const [a, b, c] = [holding.take(1), holding.take(1), holding.take(1)];
  holding.giveAll(a, undefined, c);
  expect([...work.live]).toEqual([a, c]);
  holding.give(b);
  holding.giveAll();
  expect([work.live.size, work.twice]).toEqual([0, []]);
});

test("what could not be taken is not held", () => {
  const work = {
    ...memory(),
    take: (): number => {
      throw new Error("full");
    },
  };
  const holding = new Holding(work);
  expect(() => holding.take(1)).toThrow("full");
  holding.giveAll();
  expect(work.twice).toEqual([]);
});
