import { queueAddress } from "./address";

test("reads host, port, database, user and password", () => {
  expect(queueAddress("redis://queue.example")).toMatchObject({
    shown: "redis://queue.example:6379/0",
    connection: { host: "queue.example", port: 6379, db: 0 },
  });
  const { shown, connection } = queueAddress("rediss://me:se%40cret@[::1]:7000/3");
  expect(shown).not.toMatch(/se|cret|me/);
  expect(connection).toMatchObject({
    host: "::1",
    port: 7000,
    db: 3,
    username: "me",
    password: "se@cret",
    tls: {},
  });
});

test("tries again for ever, at most every five seconds", () => {
  const { retryStrategy, maxRetriesPerRequest } = queueAddress("redis://a").connection;
  expect(maxRetriesPerRequest).toBeNull();
  expect([1, 5, 50, 5000].map(retryStrategy).every((ms) => ms > 0 && ms <= 5000)).toBe(true);
});

test.each(["", "a", "redis://", "http://a", "redis://a/b", "redis://a/1?x=1", "redis://x:y@/1"])(
  "%j is refused",
  (text) => {
    expect(() => queueAddress(text)).toThrow("--queue is written");
  },
);
