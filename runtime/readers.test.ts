import { Readers } from "./readers";

/** A piece of work that ends when it is told to. */
function work(): { promise: Promise<void>; end: () => void; fail: () => void } {
  let end = (): void => undefined;
  let fail = (): void => undefined;
  const promise = new Promise<void>((resolve, reject) => {
    end = resolve;
    fail = () => reject(new Error("failed"));
  });
  promise.catch(() => undefined);
  return { promise, end, fail };
}
const settle = async (): Promise<void> => {
  for (let i = 0; i < 8; i++) await Promise.resolve();
};

test("memory is freed once those who read it are done, whether they fail or not, and not for those who came later", async () => {
  const readers = new Readers();
  const [first, second, later] = [work(), work(), work()];
  void readers.note(first.promise);
  void readers.note(second.promise);
  let freed = false;
  readers.retire(() => (freed = true));
  void readers.note(later.promise);
  first.end();
  await settle();
  expect(freed).toBe(false);
  second.fail();
  await settle();
  expect(freed).toBe(true);
});

test("what nobody reads is freed at once", async () => {
  let freed = false;
  new Readers().retire(() => (freed = true));
  await settle();
  expect(freed).toBe(true);
});
