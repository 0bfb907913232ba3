import { fileLayout, type LaidOut } from "./fileLayout";
import { NO_PAPER, parsePaper, USUAL_PAPERS } from "./paper";
import { fileSettings } from "./settings";

const PICTURE = { width: 6000, height: 4000 };
const laid = (part: Partial<LaidOut>, picture = PICTURE) =>
  fileLayout(picture, { ...fileSettings.defaults, ...part });

test("without paper a picture is never enlarged, keeps its proportions, and has at least a pixel", () => {
  const size = (picture: typeof PICTURE, text: string) => laid({ size: text }, picture).file;
  expect(size({ width: 300, height: 200 }, "full")).toEqual({ width: 300, height: 200 });
  expect(size({ width: 300, height: 200 }, "long 900")).toEqual({ width: 300, height: 200 });
  expect(size({ width: 300, height: 200 }, "long 150")).toEqual({ width: 150, height: 100 });
  expect(size({ width: 5000, height: 2 }, "long 100")).toEqual({ width: 100, height: 1 });
  expect(laid({ border: 0.1 }).file).toEqual({ width: 6800, height: 4800 });
});

test("where a part of a picture lies does not count: it is laid out by its size", () => {
  const part = { x: 200, y: 100, ...PICTURE };
  for (const paper of [NO_PAPER, "A4"]) expect(laid({ paper }, part)).toEqual(laid({ paper }));
});

test("a sheet lies as the picture does, and its file has its size at the resolution", () => {
  expect(laid({ paper: "A4", ppi: 300 }).file).toEqual({ width: 3508, height: 2480 });
  expect(laid({ paper: "A4", ppi: 300 }, { width: 4000, height: 6000 }).file).toEqual({
    width: 2480,
    height: 3508,
  });
  expect(laid({ paper: "8x10 in", ppi: 300 }).file).toEqual({ width: 3000, height: 2400 });
});

test("a whole picture keeps its proportions within the margin, a filled sheet is cut to the middle", () => {
  const whole = laid({ paper: "30x20 cm", margin: 10, ppi: 254 });
  expect(whole.taken).toEqual({ x: 0, y: 0, ...PICTURE });
  expect(whole.printed).toEqual({ width: 270, height: 180 });
  expect(whole.picture).toEqual({ width: 2700, height: 1800 });
  const square = laid({ paper: "20x20 cm", onPaper: "fill", ppi: 254 });
  expect(square.taken).toEqual({ x: 1000, y: 0, width: 4000, height: 4000 });
  expect(square.picture).toEqual(square.file);
});

test("what has too few pixels is not enlarged: the paper's size holds, at fewer pixels an inch", () => {
  const large = laid({ paper: "90x60 cm", ppi: 300 });
  expect(large.ppi).toBe(169);
  expect(large.picture.width).toBeLessThanOrEqual(6000);
  expect((large.file.width / large.ppi) * 2.54).toBeCloseTo(90, 1);
});

test.each(USUAL_PAPERS)("%s fits any picture at any margin, with something left of it", (paper) => {
  for (const picture of [PICTURE, { width: 40000, height: 900 }, { width: 3, height: 5 }])
    for (const onPaper of ["whole", "fill"] as const)
      for (const margin of [0, 5, 500]) {
        const { taken, picture: inner, file } = laid({ paper, onPaper, margin }, picture);
        for (const side of ["width", "height"] as const) {
          expect(taken[side]).toBeGreaterThanOrEqual(1);
          expect(inner[side]).toBeGreaterThanOrEqual(1);
          expect(inner[side]).toBeLessThanOrEqual(Math.min(taken[side], file[side]));
        }
      }
});

test("a paper is read as it is written, and nothing else is one", () => {
  expect(parsePaper("a3")).toEqual({ width: 297, height: 420, unit: "cm" });
  expect(parsePaper("13,5 × 18 CM")).toMatchObject({ width: 135, height: 180, unit: "cm" });
  expect(parsePaper("8x10in")?.width).toBeCloseTo(203.2);
  for (const text of [NO_PAPER, "", "A9", "10x15", "0x9 cm", "1x1 cm", "99999x2 cm", "-3x4 cm"])
    expect(parsePaper(text)).toBeUndefined();
});
