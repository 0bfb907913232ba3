import { sheetLayout } from "./layout";

test.each([
  ["A4", 3, 60],
  ["A4", 6, 7],
  ["10x15 cm", 2, 5],
  ["8x10 in", 4, 1],
])(
  "on %s, %i beside each other: all %i are there, on the paper, and none on another",
  (paper, columns, count) => {
    const layout = sheetLayout(paper, columns, count);
    expect(layout.pages.reduce((sum, { cells }) => sum + cells.length, 0)).toBe(count);
    for (const { cells } of layout.pages)
      cells.forEach(({ picture, words }, i) => {
        expect(picture.y).toBeGreaterThanOrEqual(layout.title.y + layout.title.height);
        expect(picture.x + picture.width).toBeLessThanOrEqual(layout.paper.width);
        expect(words.y + words.height).toBeLessThanOrEqual(layout.paper.height);
        for (const other of cells.slice(i + 1))
          expect(
            other.picture.x >= picture.x + picture.width ||
              other.picture.y >= words.y + words.height ||
              other.picture.x + other.picture.width <= picture.x,
          ).toBe(true);
      });
  },
);

test("of nothing there is no page, and what is no paper is refused", () => {
  expect(sheetLayout("A4", 3, 0).pages).toEqual([]);
  expect(() => sheetLayout("none", 3, 1)).toThrow();
});
