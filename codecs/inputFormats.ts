import type { FrameFormat } from "../core/frame/frame";

/** A format that frames are read from. */
export interface InputFormatEntry {
  id: FrameFormat;
  /** as people call it */
  name: string;
  /** file name endings, without the dot */
  endings: readonly string[];
  /** media type, where browsers know one */
  mime?: string;
  /** whether a file is one, by its first bytes; by its name as well where those do not tell */
  is(bytes: Uint8Array, name: string): boolean;
  /** which of the decoders reads it */
  decoder: "vips" | "vipsWithAvif" | "vipsWithJxl" | "heic" | "raw" | "exr";
}

const textAt = (bytes: Uint8Array, at: number, n: number): string =>
  String.fromCharCode(...bytes.subarray(at, at + n));
const startsWith = (bytes: Uint8Array, ...first: readonly number[]): boolean =>
  first.every((byte, i) => bytes[i] === byte);
const isTiff = (bytes: Uint8Array): boolean => ["II*\0", "MM\0*"].includes(textAt(bytes, 0, 4));

/** Endings of camera raws; most of them are TIFF inside, so the name decides. */
const RAW_ENDINGS =
  "dng cr2 cr3 crw nef nrw arw sr2 srf orf raf rw2 pef srw x3f 3fr iiq erf mef mos mrw rwl".split(
    " ",
  );
/** First bytes of camera raws that are not like a TIFF's. */
const RAW_MARKS = /^(IIRO|IIRS|IIU\0|MMOR|FUJI|FOVb|\0MRM|HEAP)/;
/** Brands of the container that AVIF and HEIC share with some camera raws (ISO/IEC 23008-12). */
const AVIF_BRANDS = ["avif", "avis"];
const HEIC_BRANDS = ["heic", "heix", "heim", "heis", "hevc", "hevx", "hevm", "hevs"];
const SHARED_BRAND = "mif1";
const MOST_BRANDS = 32;

/** The brands of a file of that container, its own first; none of other files. */
function brandsOf(bytes: Uint8Array): string[] {
  if (textAt(bytes, 4, 4) !== "ftyp") return [];
  const size = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0);
  const others = Math.min(MOST_BRANDS, Math.max(0, Math.floor((size - 16) / 4)));
  return [
    textAt(bytes, 8, 4),
    ...Array.from({ length: others }, (_, i) => textAt(bytes, 16 + 4 * i, 4)),
  ];
}
const isHeic = (bytes: Uint8Array): boolean => {
  const [own, ...others] = brandsOf(bytes);
  if (own === undefined || AVIF_BRANDS.includes(own)) return false;
  if (HEIC_BRANDS.includes(own)) return true;
  return own === SHARED_BRAND && others.some((brand) => HEIC_BRANDS.includes(brand));
};
const isAvif = (bytes: Uint8Array): boolean =>
  [...AVIF_BRANDS, SHARED_BRAND].includes(brandsOf(bytes)[0] ?? "") && !isHeic(bytes);

/** First bytes of a JPEG XL that is in a container (ISO/IEC 18181-2). */
const JXL_CONTAINER = [0, 0, 0, 12, 0x4a, 0x58, 0x4c, 0x20, 0x0d, 0x0a, 0x87, 0x0a] as const;

const endingOf = (name: string): string => /\.([^.]+)$/.exec(name)?.[1]?.toLowerCase() ?? "";

function isRaw(bytes: Uint8Array, name: string): boolean {
  if (!RAW_ENDINGS.includes(endingOf(name))) return false;
  if (textAt(bytes, 4, 4) === "ftyp") return !isAvif(bytes) && !isHeic(bytes);
  return isTiff(bytes) || RAW_MARKS.test(textAt(bytes, 0, 4)) || textAt(bytes, 6, 4) === "HEAP";
}

/** Everything that is read: the first that a file is. A format is a row here and its decoder. */
export const INPUT_FORMATS: readonly InputFormatEntry[] = [
  {
    id: "jpeg",
    name: "JPEG",
    endings: ["jpg", "jpeg"],
    mime: "image/jpeg",
    is: (bytes) => startsWith(bytes, 0xff, 0xd8),
    decoder: "vips",
  },
  {
    id: "png",
    name: "PNG",
    endings: ["png"],
    mime: "image/png",
    is: (bytes) => textAt(bytes, 0, 4) === "\x89PNG",
    decoder: "vips",
  },
  {
    id: "raw",
    name: "camera raw",
    endings: RAW_ENDINGS,
    is: isRaw,
    decoder: "raw",
  },
  {
    id: "tiff",
    name: "TIFF",
    endings: ["tif", "tiff"],
    mime: "image/tiff",
    is: isTiff,
    decoder: "vips",
  },
  {
    id: "webp",
    name: "WebP",
    endings: ["webp"],
    mime: "image/webp",
    is: (bytes) => textAt(bytes, 0, 4) === "RIFF" && textAt(bytes, 8, 4) === "WEBP",
    decoder: "vips",
  },
  {
    id: "avif",
    name: "AVIF",
    endings: ["avif"],
    mime: "image/avif",
    is: isAvif,
    decoder: "vipsWithAvif",
  },
  {
    id: "heic",
    name: "HEIC",
    endings: ["heic", "heif", "hif"],
    mime: "image/heic",
    is: isHeic,
    decoder: "heic",
  },
  {
    id: "jxl",
    name: "JPEG XL",
    endings: ["jxl"],
    mime: "image/jxl",
    is: (bytes) => startsWith(bytes, 0xff, 0x0a) || startsWith(bytes, ...JXL_CONTAINER),
    decoder: "vipsWithJxl",
  },
  {
    id: "exr",
    name: "EXR",
    endings: ["exr"],
    is: (bytes) => startsWith(bytes, 0x76, 0x2f, 0x31, 0x01),
    decoder: "exr",
  },
  {
    id: "hdr",
    name: "Radiance HDR",
    endings: ["hdr"],
    is: (bytes) => ["#?RADIANCE", "#?RGBE"].some((mark) => textAt(bytes, 0, mark.length) === mark),
    decoder: "vips",
  },
];

/** Names of all formats that are read, in words. */
export const READABLE = `${INPUT_FORMATS.slice(0, -1)
  .map(({ name }) => name)
  .join(", ")} or ${INPUT_FORMATS.at(-1)!.name} files`;

/** Whether a file's name promises a picture that is read. */
export const isPictureName = (name: string): boolean =>
  INPUT_FORMATS.some(({ endings }) => endings.includes(endingOf(name)));

/** What a file is; undefined if nothing that is read. */
export const inputFormatOf = (bytes: Uint8Array, name: string): InputFormatEntry | undefined =>
  INPUT_FORMATS.find((entry) => entry.is(bytes, name));

/** Whether a file's media type is that of a picture that is read. */
export const isPictureType = (mime: string): boolean =>
  INPUT_FORMATS.some((entry) => entry.mime !== undefined && entry.mime === mime);
