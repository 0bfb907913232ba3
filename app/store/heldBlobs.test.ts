import { beginBlobReading } from "./heldBlobs";

const blobOf = (text: string): Blob => new Blob([text]);

test("what shows the same is the same blob in the next reading", () => {
  const first = beginBlobReading();
  const thumbnail = first.hold("a", blobOf("one"));
  const picture = first.hold("b", blobOf("two"));
  first.end();
  const second = beginBlobReading();
  expect(second.known("a")).toBe(thumbnail);
  expect(second.hold("b", blobOf("two"))).toBe(picture);
  const changed = blobOf("another");
  expect(second.hold("b", changed)).toBe(changed);
  second.end();
  expect(beginBlobReading().known("b")).toBe(changed);
});

test("what a reading does not ask for is let go", () => {
  const first = beginBlobReading();
  first.hold("a", blobOf("one"));
  first.end();
  beginBlobReading().end();
  expect(beginBlobReading().known("a")).toBeUndefined();
});
