import * as v from "valibot";
import {
  largestOfRatio,
  largestRectangle,
  type Rectangle,
} from "../../core/raster/largestRectangle";
import { commonRectangle } from "../../core/raster/coveredRectangle";
import { range } from "../../core/math/range";
import { choice, data, percent, settingsOf } from "../settings/fields";
import { defineStep } from "../step";
import { clamp } from "../../core/math/clamp";
import { fullRectangle } from "../../core/straighten/fullRectangle";
import { straightenFields, straightenKey } from "../straighten/settings";
import { placeInPicture, type PlacedFrames } from "../straighten/straightenedPlaces";

const share = range(0, 1);
const BENT = { kinds: ["panorama"], settings: { "edges.mode": ["rectangle"] } } as const;

const settings = settingsOf({
  mode: choice({
    label: "Borders",
    help: "Crop takes the largest rectangle that is filled; Keep leaves them empty, with alpha in TIFF and PNG; Fill makes up what is missing after the likes of the picture; Bend stretches the picture gently to a full rectangle.",
    options: [
      { value: "crop", text: "Crop" },
      { value: "keep", text: "Keep" },
      { value: "extend", text: "Fill" },
      { value: "rectangle", text: "Bend", kinds: ["panorama"] },
    ],
    default: "crop",
    // the reference frame of a bracket covers all of it: nothing is cut off unless it is asked for
    defaultOf: { bracket: "keep" },
  }),
  amount: percent({
    label: "Amount",
    help: "How far the picture is bent to its rectangle.",
    min: 0,
    max: 1,
    step: 0.05,
    default: 1,
    when: BENT,
    change: "Amount of bending",
  }),
  rest: choice({
    label: "The rest",
    help: "What is done about borders that bending leaves empty.",
    options: [
      { value: "crop", text: "Crop" },
      { value: "keep", text: "Keep" },
      { value: "extend", text: "Fill" },
    ],
    default: "crop",
    when: BENT,
    change: "What bending leaves",
  }),
  ratio: data({
    label: "Ratio",
    help: "Width to height of what is kept, such as 3:2, or free.",
    schema: v.pipe(
      v.string(),
      v.regex(
        /^(free|[1-9]\d{0,3}(\.\d{1,3})?:[1-9]\d{0,3}(\.\d{1,3})?)$/,
        "write it as width:height, such as 3:2, or free",
      ),
    ),
    default: "free",
  }),
  part: data({
    label: "Size",
    help: "What is kept, in shares of the whole picture: from the left, from above, width, height; auto is as much as there is.",
    schema: v.union([
      v.literal("auto"),
      v.pipe(
        v.tuple([share, share, range(0.005, 1), range(0.005, 1)]),
        v.check(
          ([x, y, w, h]) => x + w <= 1.0001 && y + h <= 1.0001,
          "the part reaches out of the picture",
        ),
      ),
    ]),
    default: "auto",
    change: "Size of what is kept",
  }),
  ...straightenFields,
});
export type EdgesSettings = v.InferOutput<typeof settings.schema>;

/** What becomes of what no frame covers. */
export const emptyIs = ({ mode, rest }: EdgesSettings): "keep" | "crop" | "extend" =>
  mode === "rectangle" ? rest : mode;
/** How far a panorama is bent to a rectangle, 0 to 1. */
export const bendOf = ({ mode, amount }: EdgesSettings): number =>
  mode === "rectangle" ? amount : 0;
/** Width over height; undefined where any will do. */
export function ratioOf({ ratio }: Pick<EdgesSettings, "ratio">): number | undefined {
  const [w, h] = ratio.split(":").map(Number);
  return h ? w! / h : undefined;
}

/** The same ratio with width and height changed. */
export const swappedRatio = (ratio: string): string => ratio.split(":").reverse().join(":");

/** The largest part of a rectangle that has the ratio, from its middle. */
function shaped(r: Rectangle, ratio: number | undefined): Rectangle {
  if (ratio === undefined) return r;
  const width = clamp(Math.round(r.height * ratio), 1, r.width);
  const height = clamp(Math.round(r.width / ratio), 1, r.height);
  return { x: r.x + ((r.width - width) >> 1), y: r.y + ((r.height - height) >> 1), width, height };
}

/** The part that was chosen manually, px; undefined where it is found. */
function chosen(
  { part }: EdgesSettings,
  { width, height }: { width: number; height: number },
): Rectangle | undefined {
  if (part === "auto") return undefined;
  const [x, y] = [
    Math.min(width - 1, Math.round(part[0] * width)),
    Math.min(height - 1, Math.round(part[1] * height)),
  ];
  return {
    x,
    y,
    width: clamp(Math.round(part[2] * width), 1, width - x),
    height: clamp(Math.round(part[3] * height), 1, height - y),
  };
}

/**
 * The part of a bracket or focus stack that is kept: where nothing was chosen, what all its frames
 * cover, px.
 */
export function commonArea(
  edges: EdgesSettings,
  aligned: PlacedFrames | undefined,
  size: { width: number; height: number },
): Rectangle {
  const whole = { x: 0, y: 0, ...size };
  const ratio = ratioOf(edges);
  const own = chosen(edges, whole);
  if (own || edges.mode !== "crop") return shaped(own ?? whole, ratio);
  const used = (aligned?.frames ?? []).flatMap((frame, i) => (frame.used ? [i] : []));
  if (aligned?.straightening) {
    const places = used.map((i) => placeInPicture(aligned, i));
    return fullRectangle(places, size, ratio) ?? shaped(whole, ratio);
  }
  const { width, height } = size;
  const b = commonRectangle(
    used.map((i) => aligned!.frames[i]!.fromReference),
    width,
    height,
  );
  const x = Math.ceil(b.x0);
  const y = Math.ceil(b.y0);
  return shaped(
    Math.floor(b.x1) - x > width / 4 && Math.floor(b.y1) - y > height / 4
      ? { x, y, width: Math.floor(b.x1) - x, height: Math.floor(b.y1) - y }
      : whole,
    ratio,
  );
}

interface Covered {
  width: number;
  height: number;
  /** 0 where nothing is */
  of: ArrayLike<number>;
}

/**
 * How much of a part of a picture no frame covers, 0 to 1.
 *
 * @param covered  a map over the whole picture
 */
export function emptyShare(
  part: Rectangle,
  picture: { width: number; height: number },
  { width: w, height: h, of }: Covered,
): number {
  const sx = w / picture.width;
  const sy = h / picture.height;
  const x1 = Math.min(w, Math.ceil((part.x + part.width) * sx));
  const y1 = Math.min(h, Math.ceil((part.y + part.height) * sy));
  let empty = 0;
  let all = 0;
  for (let y = Math.floor(part.y * sy); y < y1; y++)
    for (let x = Math.floor(part.x * sx); x < x1; x++, all++) if (!of[y * w + x]) empty++;
  return all ? empty / all : 0;
}

/**
 * Cells that are covered with all their neighbours (1): one at the border may be covered in part.
 *
 * @param closed  what lies beyond the map counts as covered
 */
function withoutRim({ width: w, height: h, of }: Covered, closed: boolean): Uint8Array {
  const beyond = closed ? 1 : 0;
  const across = new Uint8Array(w * h);
  const inner = new Uint8Array(w * h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++)
      across[i] = of[i] && (x ? of[i - 1] : beyond) && (x < w - 1 ? of[i + 1] : beyond) ? 1 : 0;
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++)
      inner[i] = across[i]! & (y ? across[i - w]! : beyond) & (y < h - 1 ? across[i + w]! : beyond);
  return inner;
}

/** What is done about a picture's empty borders, and what of it is kept. */
export const edgesStep = defineStep({
  settings,
  /** What changes the picture itself, and not only what is kept of it. */
  key: ({ edges }: { edges: EdgesSettings }) => [
    bendOf(edges),
    emptyIs(edges) === "extend",
    ...straightenKey(edges),
  ],
  /**
   * The part of a picture that is kept, px.
   *
   * @param covered  which cells of a map over the whole picture hold something
   * @param closed   whether the picture goes all round, so that its sides are no borders
   */
  run(
    edges: EdgesSettings,
    picture: { width: number; height: number },
    covered: Covered,
    closed: boolean,
  ): Rectangle {
    const whole = { x: 0, y: 0, width: picture.width, height: picture.height };
    const ratio = ratioOf(edges);
    const own = chosen(edges, picture);
    if (own || emptyIs(edges) !== "crop") return shaped(own ?? whole, ratio);
    const { width: w, height: h } = covered;
    const inner = withoutRim(covered, closed);
    const sx = picture.width / w;
    const sy = picture.height / h;
    const r =
      ratio === undefined
        ? largestRectangle(inner, w, h)
        : largestOfRatio(inner, w, h, (ratio * sy) / sx);
    if (!r.width || !r.height) return shaped(whole, ratio);
    const x = Math.ceil(r.x * sx);
    const y = Math.ceil(r.y * sy);
    return shaped(
      {
        x,
        y,
        width: Math.max(1, Math.floor((r.x + r.width) * sx) - x),
        height: Math.max(1, Math.floor((r.y + r.height) * sy) - y),
      },
      ratio,
    );
  },
});
