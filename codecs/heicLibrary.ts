/**
 * What is used of libheif's own interface, as its WebAssembly build has it: pointers are numbers,
 * structures are returned through a pointer that comes first.
 */
export interface HeicLibrary {
  HEAPU8: Uint8Array;
  _malloc(bytes: number): number;
  _free(at: number): void;
  _heif_context_alloc(): number;
  _heif_context_free(context: number): void;
  _heif_context_read_from_memory_without_copy(
    error: number,
    context: number,
    at: number,
    bytes: number,
    options: number,
  ): void;
  _heif_context_get_primary_image_handle(error: number, context: number, handle: number): void;
  _heif_image_handle_release(handle: number): void;
  _heif_image_handle_get_width(handle: number): number;
  _heif_image_handle_get_height(handle: number): number;
  _heif_image_handle_get_luma_bits_per_pixel(handle: number): number;
  _heif_image_handle_get_raw_color_profile_size(handle: number): number;
  _heif_image_handle_get_raw_color_profile(error: number, handle: number, to: number): void;
  _heif_image_handle_get_nclx_color_profile(error: number, handle: number, profile: number): void;
  _heif_nclx_color_profile_free(profile: number): void;
  _heif_decode_image(
    error: number,
    handle: number,
    image: number,
    colourSpace: number,
    chroma: number,
    options: number,
  ): void;
  _heif_image_get_plane_readonly(image: number, channel: number, stride: number): number;
  _heif_image_release(image: number): void;
}

/** Of `heif_colorspace`, `heif_chroma` and `heif_channel`. */
export const RGB = 1;
export const INTERLEAVED_8 = 10;
export const INTERLEAVED_16 = 14;
export const INTERLEAVED = 10;

/** Loads the library; it is some 2 MB and asked for when the first such file comes. */
export async function loadHeicLibrary(): Promise<HeicLibrary> {
  const { default: load } = (await import("libheif-js/libheif-wasm/libheif-bundle.mjs")) as {
    default: (options: object) => Promise<HeicLibrary> | HeicLibrary;
  };
  return load({ print: () => undefined, printErr: () => undefined });
}
