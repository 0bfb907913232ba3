import { parsePaper } from "../../pipeline/deliver/paper";

interface Rectangle {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Where a picture and its words stand on a page, mm. */
export interface SheetCell {
  picture: Rectangle;
  /** three lines below it */
  words: Rectangle;
}
export interface SheetPage {
  cells: SheetCell[];
}
export interface SheetLayout {
  /** mm */
  paper: { width: number; height: number };
  /** of the title, at the top of every page */
  title: Rectangle;
  pages: SheetPage[];
}

const MARGIN = 12;
const GAP = 5;
const TITLE = 10;
/** Height of a picture's words, three lines. */
export const LINES = 3;
const LINE = 3.6;
/** Most pictures are three to two. */
const SHAPE = 2 / 3;

/**
 * A shoot's pictures in rows on upright pages.
 *
 * @param columns  pictures beside each other
 * @throws Error  where the paper is none
 */
export function sheetLayout(paperText: string, columns: number, count: number): SheetLayout {
  const sheet = parsePaper(paperText);
  if (!sheet) throw new Error(`${paperText} is no paper`);
  const paper = {
    width: Math.min(sheet.width, sheet.height),
    height: Math.max(sheet.width, sheet.height),
  };
  const inner = { width: paper.width - 2 * MARGIN, height: paper.height - 2 * MARGIN };
  const width = (inner.width - (columns - 1) * GAP) / columns;
  const height = width * SHAPE;
  const step = height + LINES * LINE + GAP;
  const rows = Math.max(1, Math.floor((inner.height - TITLE + GAP) / step));
  const cellAt = (place: number): SheetCell => {
    const x = MARGIN + (place % columns) * (width + GAP);
    const y = MARGIN + TITLE + Math.floor(place / columns) * step;
    return {
      picture: { x, y, width, height },
      words: { x, y: y + height, width, height: LINES * LINE },
    };
  };
  const perPage = rows * columns;
  const pages = Array.from({ length: Math.ceil(count / perPage) }, (_, page) => ({
    cells: Array.from({ length: Math.min(perPage, count - page * perPage) }, (_, i) => cellAt(i)),
  }));
  return { paper, title: { x: MARGIN, y: MARGIN, width: inner.width, height: TITLE }, pages };
}
