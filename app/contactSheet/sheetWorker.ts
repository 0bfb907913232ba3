import cyrillic from "@fontsource-variable/commissioner/files/commissioner-cyrillic-wght-normal.woff2?url";
import greek from "@fontsource-variable/commissioner/files/commissioner-greek-wght-normal.woff2?url";
import latin from "@fontsource-variable/commissioner/files/commissioner-latin-wght-normal.woff2?url";
import latinMore from "@fontsource-variable/commissioner/files/commissioner-latin-ext-wght-normal.woff2?url";
import * as v from "valibot";
import { pdfOf } from "../../codecs/pdfPage";
import { MM_PER_INCH } from "../../pipeline/deliver/paper";
import { LINES, sheetLayout, type SheetCell, type SheetLayout } from "./layout";
import { SheetOrderSchema, type SheetAnswer, type SheetOrder } from "./messages";

const scope = self as unknown as {
  postMessage(answer: SheetAnswer): void;
  onmessage: ((e: MessageEvent) => void) | null;
  fonts: FontFaceSet;
};

/** Px an inch: enough for small words in print. */
const PPI = 300;
const FONT = "Commissioner";
const JPEG_QUALITY = 0.9;
const [PAPER, INK, QUIET] = ["#ffffff", "#161616", "#606060"];

const px = (mm: number): number => Math.round((mm / MM_PER_INCH) * PPI);

/** The application's own font; where it cannot be had, one of the system's. */
async function loadFont(): Promise<void> {
  await Promise.allSettled(
    [greek, cyrillic, latinMore, latin].map(async (url) => {
      const face = new FontFace(FONT, `url(${url})`, { weight: "100 900" });
      scope.fonts.add(await face.load());
    }),
  );
}

type Entry = SheetOrder["entries"][number];
type Canvas = OffscreenCanvasRenderingContext2D;

/** A picture whole within its place, and its words below. */
async function drawCell(on: Canvas, { picture, words }: SheetCell, entry: Entry): Promise<void> {
  const bitmap = entry.picture && (await createImageBitmap(entry.picture).catch(() => undefined));
  if (bitmap) {
    const by = Math.min(px(picture.width) / bitmap.width, px(picture.height) / bitmap.height);
    const [width, height] = [bitmap.width * by, bitmap.height * by];
    const x = px(picture.x);
    // all pictures of a row stand on one line
    const y = px(picture.y + picture.height) - height;
    on.drawImage(bitmap, x, y, width, height);
    bitmap.close();
  }
  const line = px(words.height) / LINES;
  entry.lines.slice(0, LINES).forEach((text, i) => {
    on.font = `${i ? 400 : 600} ${Math.round(line * 0.72)}px ${FONT}, sans-serif`;
    on.fillStyle = i ? QUIET : INK;
    on.fillText(fitting(on, text, px(words.width)), px(words.x), px(words.y) + line * (i + 0.85));
  });
}

/** As much of a text as there is room for. */
function fitting(on: Canvas, text: string, room: number): string {
  if (on.measureText(text).width <= room) return text;
  let letters = [...text];
  while (letters.length && on.measureText(`${letters.join("")}…`).width > room)
    letters = letters.slice(0, -1);
  return `${letters.join("")}…`;
}

async function drawPage(
  layout: SheetLayout,
  page: number,
  { title, entries }: SheetOrder,
): Promise<Blob> {
  const canvas = new OffscreenCanvas(px(layout.paper.width), px(layout.paper.height));
  const on = canvas.getContext("2d")!;
  on.fillStyle = PAPER;
  on.fillRect(0, 0, canvas.width, canvas.height);
  const { x, y, width, height } = layout.title;
  on.fillStyle = INK;
  on.font = `600 ${Math.round(px(height) * 0.5)}px ${FONT}, sans-serif`;
  on.fillText(fitting(on, title, px(width * 0.8)), px(x), px(y + height * 0.5));
  on.font = `400 ${Math.round(px(height) * 0.32)}px ${FONT}, sans-serif`;
  on.fillStyle = QUIET;
  on.textAlign = "right";
  on.fillText(`${page + 1} / ${layout.pages.length}`, px(x + width), px(y + height * 0.5));
  on.textAlign = "left";
  const before = layout.pages.slice(0, page).reduce((sum, { cells }) => sum + cells.length, 0);
  for (const [i, cell] of layout.pages[page]!.cells.entries())
    await drawCell(on, cell, entries[before + i]!);
  return canvas.convertToBlob({ type: "image/jpeg", quality: JPEG_QUALITY });
}

async function make(order: SheetOrder): Promise<Blob[]> {
  await loadFont();
  const layout = sheetLayout(order.paper, order.columns, order.entries.length);
  const pages: Blob[] = [];
  for (const page of layout.pages.keys()) {
    scope.postMessage({ what: "page", page, of: layout.pages.length });
    pages.push(await drawPage(layout, page, order));
  }
  if (order.format === "jpg") return pages;
  const pictures = await Promise.all(
    pages.map(async (page) => ({
      jpeg: new Uint8Array(await page.arrayBuffer()),
      width: px(layout.paper.width),
      height: px(layout.paper.height),
      ppi: PPI,
    })),
  );
  const bytes = await pdfOf(pictures, { title: order.title, author: "" });
  return [new Blob([bytes], { type: "application/pdf" })];
}

scope.onmessage = ({ data }) => {
  void Promise.resolve()
    .then(() => make(v.parse(SheetOrderSchema, data)))
    .then(
      (files) => scope.postMessage({ what: "done", files }),
      (e: unknown) =>
        scope.postMessage({ what: "failed", message: e instanceof Error ? e.message : String(e) }),
    );
};
