import * as v from "valibot";
import { OUTPUT_FORMAT_IDS, OUTPUT_FORMATS } from "../../codecs/outputFormats";
import { choice, data, number, percent, settingsOf, text } from "../settings/fields";
import { DISPLAY_CODE } from "../../core/output/displayCode";
import { NO_PAPER, parsePaper } from "./paper";
import { parseFileSize } from "./size";

const SHARPENED = {
  settings: { "deliver.sharpenFor": ["screen", "matte", "glossy"] },
} as const;

/** What has an effect on paper alone, and what without it. */
const ON_PAPER = { unless: { "deliver.paper": [NO_PAPER] } } as const;
const WITHOUT_PAPER = { settings: { "deliver.paper": [NO_PAPER] } } as const;

/** What file a picture goes out in. */
const fileFields = {
  format: choice({
    label: "Format",
    help: "TIFF and PNG are without loss; EXR and HDR carry light itself, for other programs; a PDF is a page to print.",
    options: OUTPUT_FORMAT_IDS.map((value) => ({ value, text: OUTPUT_FORMATS[value].name })),
    default: "jpg",
  }),
  space: choice({
    label: "Space",
    help: "The colour space; its profile is embedded.",
    options: [
      { value: "srgb", text: "sRGB" },
      { value: "p3", text: "Display P3" },
      { value: "adobe", text: "Adobe RGB compatible" },
      { value: "prophoto", text: "ProPhoto" },
      { value: "rec2020", text: "Rec. 2020", rare: true },
      { value: "linear", text: "Linear Rec. 2020", rare: true },
    ],
    default: "srgb",
    change: "Colour space",
  }),
  depth: choice({
    label: "Depth",
    help: "Bits a channel. In EXR 16 are half floats, which hold 3 digits and 30 EV.",
    options: [
      { value: "8", text: "8 bit" },
      { value: "16", text: "16 bit" },
      { value: "32f", text: "32-bit float" },
    ],
    default: "8",
    when: { settings: { "deliver.format": ["png", "tif", "exr", "avif", "jxl"] } },
  }),
  quality: number({
    label: "Quality",
    help: "Size against fidelity of the file; 100 of a JPEG XL is without loss.",
    min: 1,
    max: 100,
    usual: [50, 100],
    step: 1,
    whole: true,
    default: 92,
    when: { settings: { "deliver.format": ["jpg", "webp", "avif", "jxl", "pdf"] } },
  }),
  chroma: choice({
    label: "Colour",
    help: "Half resolution of colour makes smaller files.",
    options: [
      { value: "full", text: "Full" },
      { value: "half", text: "Half" },
    ],
    default: "full",
    when: { settings: { "deliver.format": ["jpg", "pdf"] } },
    change: "Resolution of colour",
  }),
  scan: choice({
    label: "Coding",
    help: "A progressive file shows the whole picture at once, sharper as it loads; every program reads a baseline one.",
    options: [
      { value: "baseline", text: "Baseline" },
      { value: "progressive", text: "Progressive" },
    ],
    default: "baseline",
    when: { settings: { "deliver.format": ["jpg"] } },
  }),
  limit: number({
    label: "File, at most",
    help: "Quality is given up until the file is no larger; 0 is no limit.",
    unit: "MB",
    min: 0,
    max: 500,
    usual: [0, 20],
    step: 0.1,
    digits: 1,
    default: 0,
    when: { settings: { "deliver.format": ["jpg", "webp", "avif", "jxl", "pdf"] } },
    change: "Limit of the file",
  }),
  compression: choice({
    label: "Compression",
    help: "Without loss; older programs read only the first.",
    options: [
      { value: "none", text: "None" },
      { value: "lzw", text: "LZW" },
      { value: "deflate", text: "Deflate" },
    ],
    default: "lzw",
    when: { settings: { "deliver.format": ["tif"] } },
  }),
  tiling: choice({
    label: "Laid out",
    help: "In rows, which every program reads, or in tiles, of which a part is read without the rest.",
    options: [
      { value: "rows", text: "Rows" },
      { value: "tiles", text: "Tiles" },
    ],
    default: "rows",
    when: { settings: { "deliver.format": ["tif"] } },
    change: "Layout of the file",
  }),
  headroom: number({
    label: "HDR headroom",
    help: "How far displays may go beyond white; 0 is not at all. A JPEG carries a gain map for such displays (ISO 21496-1) and is as it was on all others; PNG and AVIF are in a code of such displays, for them alone.",
    unit: "EV",
    min: 0,
    max: 4,
    step: 0.25,
    default: 0,
    when: { settings: { "deliver.format": ["jpg", "png", "avif"] } },
  }),
  displayCode: choice({
    label: "HDR code",
    help: "PQ tells each pixel's brightness (SMPTE ST 2084). HLG, of broadcasting, fits itself to the display, and goes 2.3 EV beyond white.",
    options: [
      { value: "pq", text: "PQ" },
      { value: "hlg", text: "HLG" },
    ],
    default: "pq",
    when: { settings: { "deliver.format": ["png", "avif"] } },
  }),
  size: data({
    label: "File size",
    help: "As large as the picture is: full; or reduced to long 2048, short 1200, width 1600, height 900, fit 1920x1080 (all px), 12 MP, 50 %. Nothing is enlarged.",
    schema: v.pipe(
      v.string(),
      v.check(
        (text) => parseFileSize(text) !== undefined,
        "write full, long 2048, short 1200, width 1600, height 900, fit 1920x1080, 12 MP or 50 %",
      ),
    ),
    default: "full",
    when: WITHOUT_PAPER,
    change: "Size of the file",
  }),
  sharpenFor: choice({
    label: "Sharpen for",
    help: "Gives back the detail that reducing, a screen or ink takes away, as it is seen from the distance.",
    options: [
      { value: "off", text: "Off" },
      { value: "screen", text: "Screen" },
      { value: "matte", text: "Matte" },
      { value: "glossy", text: "Glossy" },
    ],
    default: "off",
    change: "Output sharpening",
  }),
  sharpening: percent({
    label: "Strength",
    help: "How much of the lost detail is given back; 100 % is just what is lost.",
    min: 0,
    max: 2,
    step: 0.05,
    default: 1,
    when: SHARPENED,
    change: "Strength of output sharpening",
  }),
  distance: number({
    label: "Seen from",
    help: "Distance from which it is looked at.",
    unit: "cm",
    min: 10,
    max: 1000,
    usual: [20, 200],
    step: 5,
    default: 50,
    when: SHARPENED,
    change: "Viewing distance",
  }),
  paper: data({
    label: "Paper",
    help: "What it is printed on: none, A4, 30x45 cm, 8x10 in or 210x297 mm; it lies as the picture does, and takes the place of file size and border.",
    schema: v.pipe(
      v.string(),
      v.check(
        (text) => text === NO_PAPER || parsePaper(text) !== undefined,
        "write none, A4, 30x45 cm, 8x10 in or 210x297 mm, with sides from 2 cm to 10 m",
      ),
    ),
    default: NO_PAPER,
  }),
  onPaper: choice({
    label: "Picture",
    help: "The whole picture, or as much of its middle as fills what the margin leaves.",
    options: [
      { value: "whole", text: "Whole" },
      { value: "fill", text: "Filled" },
    ],
    default: "whole",
    when: ON_PAPER,
    change: "Picture on the paper",
  }),
  margin: number({
    label: "Margin",
    help: "Paper that stays free on every side, at least.",
    unit: "mm",
    min: 0,
    max: 500,
    usual: [0, 50],
    step: 1,
    default: 0,
    when: ON_PAPER,
    change: "Margin of the paper",
  }),
  leastPpi: number({
    label: "Too few below",
    help: "A print with fewer pixels an inch is marked as too soft.",
    unit: "ppi",
    min: 30,
    max: 600,
    usual: [60, 300],
    step: 10,
    whole: true,
    default: 150,
    when: ON_PAPER,
    change: "Fewest pixels an inch",
  }),
  border: percent({
    label: "Border",
    help: "Width of a border round the picture, of its shorter side.",
    min: 0,
    max: 0.5,
    usual: [0, 0.2],
    step: 0.005,
    digits: 1,
    default: 0,
    when: WITHOUT_PAPER,
  }),
  borderTone: choice({
    label: "Border is",
    help: "Tone of the border, or of the paper's margin.",
    options: [
      { value: "white", text: "White" },
      { value: "grey", text: "Grey" },
      { value: "black", text: "Black" },
    ],
    default: "white",
    change: "Tone of the border",
  }),
  metadata: choice({
    label: "Metadata",
    help: "What is carried over from the frames: all of it, all but the place, or creator and copyright alone.",
    options: [
      { value: "all", text: "All" },
      { value: "noPlace", text: "No place" },
      { value: "copyright", text: "Copyright" },
    ],
    default: "all",
    change: "Metadata that is kept",
  }),
  pattern: text({
    label: "Name",
    help: "Of the file, from {name}, {first}, {last}, {count}, {kind}, {take}, {delivery}, {date}, {shoot} and {number}. What stands before a slash is a folder: {delivery}/{name}.",
    longest: 200,
    default: "{name}",
    change: "Name of the file",
  }),
  ppi: number({
    label: "Resolution",
    help: "Pixels per inch for printing; written into the file.",
    unit: "ppi",
    min: 1,
    max: 4800,
    step: 1,
    whole: true,
    default: 300,
  }),
  creator: text({ label: "Creator", help: "Written into the file.", longest: 200, default: "" }),
  copyright: text({
    label: "Copyright",
    help: "Written into the file.",
    longest: 400,
    default: "",
  }),
};

/** The settings of one file. */
export const fileSettings = settingsOf(fileFields);
export type FileSettings = v.InferOutput<typeof fileSettings.schema>;

/** How a file tells what is brighter than white. */
export const beyondWhiteOf = ({
  format,
  headroom,
}: Pick<FileSettings, "format" | "headroom">): "gainMap" | "code" | "none" =>
  headroom > 0 ? OUTPUT_FORMATS[format].beyondWhite : "none";

/** How far a file goes beyond white, EV: as far as is wanted and its code can tell. */
export const headroomOf = (
  settings: Pick<FileSettings, "format" | "headroom" | "displayCode">,
): number =>
  beyondWhiteOf(settings) === "code"
    ? Math.min(settings.headroom, DISPLAY_CODE[settings.displayCode].headroom)
    : settings.headroom;

/** A named set of what a file is to be. */
export interface Delivery {
  name: string;
  on: boolean;
  settings: FileSettings;
}

const isKnown = (settings: Record<string, unknown>): boolean =>
  Object.keys(settings).every((key) => key in fileFields);

/** A delivery as a file or a recipe holds it: settings that are missing are the usual ones. */
export const DeliverySchema = v.pipe(
  v.strictObject({
    name: v.pipe(v.string(), v.minLength(1), v.maxLength(80)),
    on: v.optional(v.boolean(), true),
    settings: v.pipe(
      v.record(v.string(), v.unknown()),
      v.check(isKnown, "it has a setting that nobody knows"),
      v.transform((settings) => ({ ...fileSettings.defaults, ...settings })),
      fileSettings.schema,
    ),
  }),
  v.transform((delivery): Delivery => delivery),
);

/** What the recipe says of delivery: its own file, and others beside it. */
export const deliverSettings = settingsOf({
  ...fileFields,
  also: data({
    label: "Other files",
    help: "Deliveries that are made beside this one, each with a name and settings of its own.",
    schema: v.pipe(v.array(DeliverySchema), v.maxLength(20)),
    default: [],
    change: "Other files",
  }),
});
export type DeliverSettings = v.InferOutput<typeof deliverSettings.schema>;

/** Files that a recipe asks for: its own, and those beside it that are on. */
export const filesOf = ({ also, ...own }: DeliverSettings): Delivery[] => [
  { name: "", on: true, settings: own },
  ...also.filter((delivery) => delivery.on),
];
