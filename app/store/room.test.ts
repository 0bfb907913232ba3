import { bytesText } from "../ui/bytesText";
import { nearLimit, willNotFit } from "./room";

test.each([
  [0, "0 kB"],
  [1, "1 kB"],
  [999_000, "999 kB"],
  [1_000_000, "1.0 MB"],
  [47_600_000, "47.6 MB"],
  [250_000_000, "250 MB"],
  [3_200_000_000, "3.2 GB"],
  [5e12, "5.0 TB"],
])("%d bytes read as %s", (bytes, text) => {
  expect(bytesText(bytes)).toBe(text);
});

test("little room is said before it runs out, with what is left", () => {
  expect(nearLimit({ used: 84, granted: 100 })).toBeUndefined();
  expect(nearLimit({ used: 9e9, granted: 10e9 })).toContain("1.0 GB");
  expect(nearLimit({ used: 11, granted: 10 })).toContain("0 kB");
});

test("files that do not fit are said beforehand", () => {
  expect(willNotFit(10, { used: 0, granted: 10 })).toBeUndefined();
  expect(willNotFit(4e9, { used: 8e9, granted: 10e9 })).toMatch(/4\.0 GB.*2\.0 GB/);
});
