import type Vips from "wasm-vips";
import type { EncodeInput } from "./codec";
import type { OutputFormat } from "./outputFormats";

/** Formats that libvips writes. */
export type VipsSaved = Exclude<OutputFormat, "exr" | "pdf">;
type Save = (
  image: Vips.Image,
  target: Vips.TargetCustom,
  input: Omit<EncodeInput, "format">,
) => void;

/**
 * Larger JPEGs are coded in one pass: a second one, for a few percent of their size, would hold all
 * their coefficients.
 */
const TWO_PASS_PX = 12e6;

const saveJpeg: Save = (image, target, { quality, chroma, progressive, width, height }) =>
  image.jpegsaveTarget(target, {
    Q: quality,
    interlace: progressive ?? false,
    optimize_coding: width * height < TWO_PASS_PX,
    subsample_mode: chroma === "full" ? "off" : "on",
  });

const savePng: Save = (image, target, { samples }) =>
  image.pngsaveTarget(target, {
    compression: 6,
    bitdepth: samples instanceof Uint16Array ? 16 : 8,
  });

/** Edge of a TIFF's tiles, px. */
const TILE = 256;
/** Colours, and how far it is covered. */
const BANDS = 4;
/** A TIFF's own addresses reach so far, bytes; what may be larger has longer ones. */
const TIFF_REACH = 4e9;

const saveTiff: Save = (image, target, { samples, compression, tiles, width, height }) => {
  // level 6 takes a quarter longer for 1.4 % of the size
  const packed = {
    level: 3,
    predictor: samples instanceof Float32Array ? "float" : "horizontal",
  } as const;
  image.tiffsaveTarget(target, {
    compression,
    ...(compression === "none" ? {} : packed),
    tile: tiles ?? false,
    ...(tiles ? { tile_width: TILE, tile_height: TILE } : {}),
    bigtiff: width * height * BANDS * samples.BYTES_PER_ELEMENT > TIFF_REACH,
  });
};

/** Coded by hand: saving a float picture would first turn it into what a screen shows. */
const saveRadiance: Save = (image, target) => {
  const coded = image.float2rad();
  coded.radsaveTarget(target, {});
  coded.delete();
};

const saveWebp: Save = (image, target, { quality }) =>
  image.webpsaveTarget(target, { Q: quality, smart_subsample: true, effort: 4 });

/** Sixteen bits are kept as ten, which shows no steps. */
const saveAvif: Save = (image, target, { quality, samples }) =>
  image.heifsaveTarget(target, {
    Q: quality,
    compression: "av1",
    bitdepth: samples instanceof Uint16Array ? 10 : 8,
    subsample_mode: "off",
    effort: 2,
  });

/** At the highest quality without loss. */
const saveJxl: Save = (image, target, { quality }) =>
  image.jxlsaveTarget(
    target,
    quality === 100 ? { lossless: true, effort: 4 } : { Q: quality, effort: 4 },
  );

/** How a tagged picture is written, by the format. */
export const VIPS_SAVERS: Readonly<Record<VipsSaved, Save>> = {
  jpg: saveJpeg,
  png: savePng,
  tif: saveTiff,
  webp: saveWebp,
  avif: saveAvif,
  jxl: saveJxl,
  hdr: saveRadiance,
};
