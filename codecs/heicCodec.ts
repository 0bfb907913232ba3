import type { Decoded, Decoder } from "./codec";
import { readExif } from "./exif";
import { hasGainMap } from "./gainMapMarks";
import { colourOfCodes, type ColourCodes } from "./heicColour";
import { INTERLEAVED, INTERLEAVED_16, INTERLEAVED_8, RGB, type HeicLibrary } from "./heicLibrary";
import { boxReduce } from "./boxReduce";
import { readMatrixProfile, type InputColour } from "./icc";
import { checkHeldWhole } from "./heldWhole";
import { checkSize, damaged } from "./limits";
import { inOneStrip } from "./strips";
import { tables } from "./vipsColour";

/** An error as the library returns it: a code, a finer one, and the address of a sentence. */
const ERROR_BYTES = 12;
/** Samples of up to eight bits are bytes. */
const BYTE_BITS = 8;

/**
 * HEIC and HEIF, as phones and some cameras write them, through libheif: the primary picture,
 * upright, in 8 bits or more.
 *
 * @param encodeThumbnail  makes a small JPEG of decoded samples
 */
export function heicCodec(
  library: HeicLibrary,
  encodeThumbnail: (decoded: Decoded, longEdge: number) => Uint8Array,
): Decoder {
  const decoder: Decoder = {
    inspect: (bytes, name) =>
      opened(library, bytes, name, (handle) => {
        const { orientation: _turned, ...exif } = readExif(bytes);
        return {
          name,
          format: "heic",
          width: library._heif_image_handle_get_width(handle),
          height: library._heif_image_handle_get_height(handle),
          depth: bitsOf(library, handle) > BYTE_BITS ? 16 : 8,
          profile: colourOf(library, handle).name,
          exif,
          ...(hasGainMap(bytes) ? { gainMap: true } : {}),
        };
      }),
    decode: (bytes, name, downscale) =>
      opened(library, bytes, name, (handle) => {
        const colour = colourOf(library, handle);
        const { samples: whole, width, height } = pixelsOf(library, handle);
        const entries = whole instanceof Uint8Array ? 256 : 65536;
        const reduced =
          downscale > 1
            ? boxReduce(whole, width, height, downscale)
            : { samples: whole, width, height };
        return { ...reduced, lut: tables(colour, entries), matrix: [...colour.matrix] };
      }),
    decodeStrips: (...args) => inOneStrip(decoder.decode)(...args),
    thumbnail: (bytes, name, longEdge) => encodeThumbnail(decoder.decode(bytes, name, 4), longEdge),
  };
  return decoder;
}

/** Memory of the library that lives as long as some work. */
function withMemory<T>(library: HeicLibrary, bytes: number, use: (at: number) => T): T {
  const at = library._malloc(bytes);
  try {
    return use(at);
  } finally {
    library._free(at);
  }
}

const wordAt = ({ HEAPU8 }: HeicLibrary, at: number): number =>
  new DataView(HEAPU8.buffer).getInt32(at, true);

function textAt({ HEAPU8 }: HeicLibrary, at: number): string {
  const end = HEAPU8.indexOf(0, at);
  return new TextDecoder().decode(HEAPU8.slice(at, end));
}

/** Calls the library and throws what it answers that is no success. */
function checked(library: HeicLibrary, call: (error: number) => void): void {
  withMemory(library, ERROR_BYTES, (error) => {
    call(error);
    if (wordAt(library, error) !== 0) throw new Error(textAt(library, wordAt(library, error + 8)));
  });
}

/** A pointer that a call of the library answers with. */
const answered = (library: HeicLibrary, call: (error: number, to: number) => void): number =>
  withMemory(library, 4, (to) => {
    checked(library, (error) => call(error, to));
    return wordAt(library, to);
  });

/** Opens a file's primary picture for some work. @throws RhizomeError `damaged`, `too-large` */
function opened<T>(
  library: HeicLibrary,
  bytes: Uint8Array,
  name: string,
  use: (handle: number) => T,
): T {
  const context = library._heif_context_alloc();
  let handle = 0;
  try {
    return withMemory(library, bytes.length, (at) => {
      library.HEAPU8.set(bytes, at);
      checked(library, (error) =>
        library._heif_context_read_from_memory_without_copy(error, context, at, bytes.length, 0),
      );
      handle = answered(library, (error, to) =>
        library._heif_context_get_primary_image_handle(error, context, to),
      );
      const width = library._heif_image_handle_get_width(handle);
      const height = library._heif_image_handle_get_height(handle);
      checkSize(name, width, height);
      checkHeldWhole({ name, format: "heic", width, height });
      return use(handle);
    });
  } catch (e) {
    throw damaged(name, e);
  } finally {
    if (handle) library._heif_image_handle_release(handle);
    library._heif_context_free(context);
  }
}

const bitsOf = (library: HeicLibrary, handle: number): number =>
  library._heif_image_handle_get_luma_bits_per_pixel(handle);

/** The picture's colour: by its profile, else by its codes, else sRGB. */
function colourOf(library: HeicLibrary, handle: number): InputColour {
  const size = library._heif_image_handle_get_raw_color_profile_size(handle);
  const profile =
    size > 0
      ? withMemory(library, size, (at) => {
          checked(library, (error) =>
            library._heif_image_handle_get_raw_color_profile(error, handle, at),
          );
          return readMatrixProfile(library.HEAPU8.slice(at, at + size));
        })
      : undefined;
  return profile ?? colourOfCodes(codesOf(library, handle));
}

/** The codes of the picture's colour; undefined where it has none. */
function codesOf(library: HeicLibrary, handle: number): ColourCodes | undefined {
  try {
    const profile = answered(library, (error, to) =>
      library._heif_image_handle_get_nclx_color_profile(error, handle, to),
    );
    const codes = {
      primaries: wordAt(library, profile + 4),
      transfer: wordAt(library, profile + 8),
    };
    library._heif_nclx_color_profile_free(profile);
    return codes;
  } catch {
    return undefined;
  }
}

/** Decodes the picture; more than 8 bits fill 16. */
function pixelsOf(
  library: HeicLibrary,
  handle: number,
): { samples: Uint8Array | Uint16Array; width: number; height: number } {
  const width = library._heif_image_handle_get_width(handle);
  const height = library._heif_image_handle_get_height(handle);
  const bits = bitsOf(library, handle);
  const isByte = bits <= BYTE_BITS;
  const image = answered(library, (error, to) =>
    library._heif_decode_image(error, handle, to, RGB, isByte ? INTERLEAVED_8 : INTERLEAVED_16, 0),
  );
  try {
    return withMemory(library, 4, (strideAt) => {
      const plane = library._heif_image_get_plane_readonly(image, INTERLEAVED, strideAt);
      const stride = wordAt(library, strideAt);
      const row = width * 3;
      const samples = isByte ? new Uint8Array(row * height) : new Uint16Array(row * height);
      const most = 2 ** bits - 1;
      for (let y = 0; y < height; y++) {
        const at = plane + y * stride;
        if (isByte) samples.set(library.HEAPU8.subarray(at, at + row), y * row);
        else {
          const wide = new Uint16Array(library.HEAPU8.buffer, at, row);
          for (let i = 0; i < row; i++)
            samples[y * row + i] = Math.round((wide[i]! * 65535) / most);
        }
      }
      return { samples, width, height };
    });
  } finally {
    library._heif_image_release(image);
  }
}
