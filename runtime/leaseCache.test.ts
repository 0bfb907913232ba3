import { leaseOf } from "./lease";
import { LeaseCache } from "./leaseCache";
import { Readers } from "./readers";

/** Leases by name, and which of them were released. */
function leases(): {
  make: (name: string) => Promise<ReturnType<typeof leaseOf>>;
  freed: string[];
} {
  const freed: string[] = [];
  return { freed, make: (name) => Promise.resolve(leaseOf(() => freed.push(name))) };
}
const settled = (): Promise<void> => new Promise((later) => setImmediate(later));

test("a lease is made once for its key; the oldest goes when there are too many", async () => {
  const { make, freed } = leases();
  const cache = new LeaseCache(new Readers(), 2);
  const first = await cache.get("a", () => make("a"));
  expect(await cache.get("a", () => make("again"))).toBe(first);
  await cache.get("b", () => make("b"));
  await cache.get("c", () => make("c"));
  await settled();
  expect(freed).toEqual(["a"]);
  cache.clear();
  await settled();
  expect(freed).toEqual(["a", "b", "c"]);
});

test("what somebody reads is released when they are done, and what comes too late as it comes", async () => {
  const { make, freed } = leases();
  const readers = new Readers();
  const cache = new LeaseCache(readers, 2);
  await cache.get("read", () => make("read"));
  let done = (): void => undefined;
  void readers.note(new Promise<void>((end) => (done = end)));
  let come = (): void => undefined;
  void cache.get("late", async () => {
    await new Promise<void>((go) => (come = go));
    return make("late");
  });
  cache.clear();
  await settled();
  expect(freed).toEqual([]);
  done();
  await settled();
  expect(freed).toEqual(["read"]);
  come();
  await settled();
  expect(freed).toEqual(["read", "late"]);
});

test("what failed is made anew", async () => {
  const { make } = leases();
  const cache = new LeaseCache(new Readers(), 2);
  await expect(cache.get("a", () => Promise.reject(new Error("no")))).rejects.toThrow("no");
  await expect(cache.get("a", () => make("a"))).resolves.toBeDefined();
});
