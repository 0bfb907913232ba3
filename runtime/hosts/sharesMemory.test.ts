import { sharesMemory } from "./sharesMemory";

const page = globalThis as {
  crossOriginIsolated?: boolean | undefined;
  SharedArrayBuffer?: unknown;
};
const before = { isolated: page.crossOriginIsolated, shared: page.SharedArrayBuffer };
afterEach(() => {
  page.crossOriginIsolated = before.isolated;
  page.SharedArrayBuffer = before.shared;
});

test.each([
  [true, class {}, true],
  [true, undefined, false],
  [false, class {}, false],
  [undefined, class {}, false],
])("isolated %s, with such memory %s: %s", (isolated, shared, expected) => {
  page.crossOriginIsolated = isolated;
  page.SharedArrayBuffer = shared;
  expect(sharesMemory()).toBe(expected);
});
