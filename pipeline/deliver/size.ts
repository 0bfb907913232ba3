interface Size {
  width: number;
  height: number;
}
/** How large a file is: all of the picture, or a bound that it is reduced to. */
export type FileSize =
  | { by: "full" }
  | { by: "long" | "short" | "width" | "height"; px: number }
  | { by: "megapixels"; megapixels: number }
  | { by: "percent"; percent: number }
  | { by: "fit"; width: number; height: number };

/** The longest edge of a file, px. */
export const LONGEST_EDGE = 65535;

const NUMBER = String.raw`(\d+(?:[.,]\d+)?)`;
const EDGE = new RegExp(String.raw`^(long|short|width|height)(?: edge)? ${NUMBER}(?: px)?$`, "i");
const FIT = new RegExp(String.raw`^fit ${NUMBER} ?[x×] ?${NUMBER}(?: px)?$`, "i");
const MEGAPIXELS = new RegExp(`^${NUMBER} ?MP$`, "i");
const PERCENT = new RegExp(`^${NUMBER} ?%$`);

const numberOf = (text: string | undefined): number => Number((text ?? "").replace(",", "."));
const isEdge = (px: number): boolean => px >= 1 && px <= LONGEST_EDGE;

/** A size as it is written: full, long 2048, short 1200, fit 1920x1080, 12 MP, 50 %. */
export function parseFileSize(text: string): FileSize | undefined {
  const written = text.trim().replace(/\s+/g, " ");
  if (/^full$/i.test(written)) return { by: "full" };
  const edge = EDGE.exec(written);
  if (edge) {
    const px = Math.round(numberOf(edge[2]));
    const by = edge[1]!.toLowerCase() as "long" | "short" | "width" | "height";
    return isEdge(px) ? { by, px } : undefined;
  }
  const fit = FIT.exec(written);
  if (fit) {
    const [width, height] = [fit[1], fit[2]].map((part) => Math.round(numberOf(part))) as [
      number,
      number,
    ];
    return isEdge(width) && isEdge(height) ? { by: "fit", width, height } : undefined;
  }
  const megapixels = numberOf(MEGAPIXELS.exec(written)?.[1]);
  if (megapixels > 0) return { by: "megapixels", megapixels };
  const percent = numberOf(PERCENT.exec(written)?.[1]);
  return percent > 0 && percent <= 100 ? { by: "percent", percent } : undefined;
}

/** The same as it is written. */
export function fileSizeText(size: FileSize): string {
  switch (size.by) {
    case "full":
      return "full";
    case "megapixels":
      return `${size.megapixels} MP`;
    case "percent":
      return `${size.percent} %`;
    case "fit":
      return `fit ${size.width}x${size.height}`;
    default:
      return `${size.by} ${size.px}`;
  }
}

/** By what a picture is scaled to a size; it is never enlarged. */
function scaleTo(size: FileSize, { width, height }: Size): number {
  switch (size.by) {
    case "full":
      return 1;
    case "long":
      return size.px / Math.max(width, height);
    case "short":
      return size.px / Math.min(width, height);
    case "width":
      return size.px / width;
    case "height":
      return size.px / height;
    case "megapixels":
      return Math.sqrt((size.megapixels * 1e6) / (width * height));
    case "percent":
      return size.percent / 100;
    case "fit":
      return Math.min(size.width / width, size.height / height);
  }
}

/** A picture's size in the file, its proportions kept. */
export function sizedTo(picture: Size, size: FileSize): Size {
  const by = Math.min(1, scaleTo(size, picture));
  return {
    width: Math.max(1, Math.round(picture.width * by)),
    height: Math.max(1, Math.round(picture.height * by)),
  };
}
