/** A format that results are written in. */
export interface OutputFormatEntry {
  /** as people call it */
  name: string;
  /** file name endings, the usual one first */
  endings: readonly [string, ...string[]];
  /** bits a sample that it can hold, the usual one first; 32f are floats */
  depths: readonly ["8" | "16" | "32f", ...("8" | "16" | "32f")[]];
  /** the depth that the command line takes where none is asked for */
  commandDepth: "8" | "16" | "32f";
  /** media type */
  mime: string;
  /** it holds scene-linear light, and no curve of a space */
  light: boolean;
  /** it holds how far each pixel is covered */
  alpha: boolean;
  /**
   * how it tells what is brighter than white: by a gain map beside the picture, or by the picture
   * itself, in a code of such displays
   */
  beyondWhite: "gainMap" | "code" | "none";
  /** it gives up detail for size, by a quality */
  lossy: boolean;
  /** how long a megapixel is toned and written, ms; on two cores of a server of 2024 */
  msPerMegapixel: number;
}

/** Everything that results are written in: a format is a row here and a branch of its encoder. */
export const OUTPUT_FORMATS = {
  jpg: {
    name: "JPEG",
    endings: [".jpg", ".jpeg"],
    depths: ["8"],
    commandDepth: "8",
    mime: "image/jpeg",
    light: false,
    alpha: false,
    beyondWhite: "gainMap",
    lossy: true,
    msPerMegapixel: 110,
  },
  png: {
    name: "PNG",
    endings: [".png"],
    depths: ["8", "16"],
    commandDepth: "16",
    mime: "image/png",
    light: false,
    alpha: true,
    beyondWhite: "code",
    lossy: false,
    msPerMegapixel: 260,
  },
  tif: {
    name: "TIFF",
    endings: [".tif", ".tiff"],
    depths: ["16", "8", "32f"],
    commandDepth: "16",
    mime: "image/tiff",
    light: false,
    alpha: true,
    beyondWhite: "none",
    lossy: false,
    msPerMegapixel: 180,
  },
  webp: {
    name: "WebP",
    endings: [".webp"],
    depths: ["8"],
    commandDepth: "8",
    mime: "image/webp",
    light: false,
    alpha: false,
    beyondWhite: "none",
    lossy: true,
    msPerMegapixel: 320,
  },
  avif: {
    name: "AVIF",
    endings: [".avif"],
    depths: ["16", "8"],
    commandDepth: "16",
    mime: "image/avif",
    light: false,
    alpha: false,
    beyondWhite: "code",
    lossy: true,
    msPerMegapixel: 900,
  },
  jxl: {
    name: "JPEG XL",
    endings: [".jxl"],
    depths: ["16", "8"],
    commandDepth: "16",
    mime: "image/jxl",
    light: false,
    alpha: false,
    beyondWhite: "none",
    lossy: true,
    msPerMegapixel: 420,
  },
  pdf: {
    name: "PDF",
    endings: [".pdf"],
    depths: ["8"],
    commandDepth: "8",
    mime: "application/pdf",
    light: false,
    alpha: false,
    beyondWhite: "none",
    lossy: true,
    msPerMegapixel: 120,
  },
  exr: {
    name: "EXR",
    endings: [".exr"],
    depths: ["16", "32f"],
    commandDepth: "16",
    mime: "image/x-exr",
    light: true,
    alpha: false,
    beyondWhite: "none",
    lossy: false,
    msPerMegapixel: 160,
  },
  hdr: {
    name: "Radiance HDR",
    endings: [".hdr"],
    depths: ["32f"],
    commandDepth: "32f",
    mime: "image/vnd.radiance",
    light: true,
    alpha: false,
    beyondWhite: "none",
    lossy: false,
    msPerMegapixel: 90,
  },
} as const satisfies Record<string, OutputFormatEntry>;
export type OutputFormat = keyof typeof OUTPUT_FORMATS;
export const OUTPUT_FORMAT_IDS = Object.keys(OUTPUT_FORMATS) as OutputFormat[];

/** The format that a file's ending names, if any. */
export const formatByEnding = (ending: string): OutputFormat | undefined =>
  OUTPUT_FORMAT_IDS.find((id) =>
    (OUTPUT_FORMATS[id].endings as readonly string[]).includes(ending.toLowerCase()),
  );

/** How colour is sampled in a JPEG, and how a TIFF is compressed. */
export const CHROMAS = ["full", "half"] as const;
export const COMPRESSIONS = ["none", "lzw", "deflate"] as const;
