import { fileSizeText, parseFileSize, sizedTo } from "./size";

const picture = { width: 6000, height: 4000 };

test.each([
  ["full", 6000, 4000],
  ["long 3000", 3000, 2000],
  ["short edge 1000 px", 1500, 1000],
  ["width 1200", 1200, 800],
  ["height 1200", 1800, 1200],
  ["fit 1920x1080", 1620, 1080],
  ["fit 900 × 4000", 900, 600],
  ["6 MP", 3000, 2000],
  ["50 %", 3000, 2000],
  ["33,3%", 1998, 1332],
])("%s of 6000 x 4000 is %i x %i", (text, width, height) => {
  expect(sizedTo(picture, parseFileSize(text)!)).toEqual({ width, height });
});

test.each(["long 9000", "width 7000", "60 MP", "100 %", "fit 20000x20000"])(
  "%s enlarges nothing",
  (text) => expect(sizedTo(picture, parseFileSize(text)!)).toEqual(picture),
);

test.each([
  "",
  "long",
  "long 0",
  "wide 300",
  "fit 300",
  "0 %",
  "120 %",
  "-3 MP",
  "long 99999",
  "NaN MP",
])("%p is no size", (text) => expect(parseFileSize(text)).toBeUndefined());

test.each(["full", "long 2048", "short 99", "width 3", "height 40", "fit 3x4", "12.5 MP", "25 %"])(
  "%s is written as it is read",
  (text) => expect(fileSizeText(parseFileSize(text)!)).toBe(text),
);
