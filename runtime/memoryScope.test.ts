import { MemoryScope } from "./memoryScope";

/** Memory of addresses 1, 2, 3 ..., and what became of them. */
function memory() {
  let next = 0;
  const live = new Set<number>();
  const twice: number[] = [];
  return {
    live,
    twice,
    idles: 0,
    allocate: () => {
      live.add(++next);
      return next;
    },
    free(at: number) {
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
  const scope = new MemoryScope(work, work.allocate());
  const [a, b] = [scope.allocate(10), scope.allocate(20)];
  scope.free(a);
  scope.free(a);
  expect([...work.live]).toEqual([1, b]);
  await scope.dispose();
  await scope.dispose();
  expect([work.live.size, work.twice, work.idles]).toEqual([0, [], 2]);
});

test("what is named is kept, and can still be given back", () => {
  const work = memory();
  const scope = new MemoryScope(work);
  const [a, b, c] = [scope.allocate(1), scope.allocate(1), scope.allocate(1)];
  scope.freeAll(a, undefined, c);
  expect([...work.live]).toEqual([a, c]);
  scope.free(b);
  scope.freeAll();
  expect([work.live.size, work.twice]).toEqual([0, []]);
});

test("what could not be taken is not held", () => {
  const work = {
    ...memory(),
    allocate: (): number => {
      throw new Error("full");
    },
  };
  const scope = new MemoryScope(work);
  expect(() => scope.allocate(1)).toThrow("full");
  scope.freeAll();
  expect(work.twice).toEqual([]);
});
