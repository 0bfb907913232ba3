import type { Rectangle } from "../../core/raster/largestRectangle";
import { MM_PER_INCH, parsePaper } from "./paper";
import type { FileSettings } from "./settings";
import { parseFileSize, sizedTo } from "./size";

type Size = { width: number; height: number };

/** How a picture lies in its file. */
export interface FileLayout {
  /** the part of the picture that goes into the file, px of the picture */
  taken: Rectangle;
  /** its size in the file, px; never enlarged */
  picture: Size;
  /** the file's size, with what lies round the picture, px */
  file: Size;
  /** px an inch of the file */
  ppi: number;
  /** the paper as it lies, and the picture on it, mm */
  paper?: Size;
  printed?: Size;
}

export type LaidOut = Pick<
  FileSettings,
  "size" | "border" | "paper" | "onPaper" | "margin" | "ppi"
>;

/**
 * How a picture lies in its file: reduced to a size with a border round it, or on paper, whose size
 * in the hand holds exactly. A picture that has too few pixels for the paper is not enlarged: its
 * file has fewer px an inch.
 */
export function fileLayout(picture: Size, settings: LaidOut): FileLayout {
  const paper = parsePaper(settings.paper);
  return paper ? onPaper(picture, paper, settings) : reduced(picture, settings);
}

/** All of a picture. */
const whole = ({ width, height }: Size): Rectangle => ({ x: 0, y: 0, width, height });

function reduced(picture: Size, { size, border, ppi }: LaidOut): FileLayout {
  const inner = sizedTo(picture, parseFileSize(size) ?? { by: "full" });
  const around = 2 * Math.round(border * Math.min(inner.width, inner.height));
  return {
    taken: whole(picture),
    picture: inner,
    file: { width: inner.width + around, height: inner.height + around },
    ppi,
  };
}

/** A sheet turned as the picture lies. */
function turned({ width, height }: Size, picture: Size): Size {
  const isWide = picture.width >= picture.height;
  const [short, long] = [Math.min(width, height), Math.max(width, height)];
  return isWide ? { width: long, height: short } : { width: short, height: long };
}

function onPaper(picture: Size, sheet: Size, settings: LaidOut): FileLayout {
  const paper = turned(sheet, picture);
  // of a margin that leaves nothing, what leaves a tenth
  const margin = Math.min(settings.margin, 0.45 * Math.min(paper.width, paper.height));
  const room = { width: paper.width - 2 * margin, height: paper.height - 2 * margin };
  const scales = [room.width / picture.width, room.height / picture.height] as const;
  const fills = settings.onPaper === "fill";
  const mmPerPx = fills ? Math.max(...scales) : Math.min(...scales);
  const taken = fills
    ? centred(picture, { width: room.width / mmPerPx, height: room.height / mmPerPx })
    : whole(picture);
  const printed = { width: taken.width * mmPerPx, height: taken.height * mmPerPx };
  const has = MM_PER_INCH / mmPerPx;
  const ppi = Math.max(1, Math.min(settings.ppi, Math.floor(has)));
  const inPx = (mm: number): number => Math.max(1, Math.round((mm / MM_PER_INCH) * ppi));
  const file = { width: inPx(paper.width), height: inPx(paper.height) };
  return {
    taken,
    picture: {
      width: Math.min(taken.width, file.width, inPx(printed.width)),
      height: Math.min(taken.height, file.height, inPx(printed.height)),
    },
    file,
    ppi,
    paper,
    printed,
  };
}

/** The middle of a picture, in whole pixels. */
function centred(picture: Size, part: Size): Rectangle {
  const width = Math.min(picture.width, Math.max(1, Math.round(part.width)));
  const height = Math.min(picture.height, Math.max(1, Math.round(part.height)));
  return {
    x: (picture.width - width) >> 1,
    y: (picture.height - height) >> 1,
    width,
    height,
  };
}
