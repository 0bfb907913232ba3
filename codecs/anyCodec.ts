import { RhizomeError } from "../core/error";
import type { Codec, Decoder } from "./codec";
import { inputFormatOf, READABLE, type InputFormatEntry } from "./inputFormats";
import type { LibRaw } from "./rawCodec";
import { joined } from "./stream";
import { writeProfile } from "./icc";
import type { VipsCodec } from "./vipsCodec";

/** What libvips reads and writes by a module of its own, loaded when first needed. */
export type VipsModule = "vips-heif.wasm" | "vips-jxl.wasm";

/** How a host gets at the libraries; each is asked for once, when the first file needs it. */
export interface Libraries {
  vips(modules: readonly VipsModule[]): Promise<VipsCodec>;
  libraw(): Promise<LibRaw>;
}

/** What a document takes beside its picture, bytes. */
const PDF_BYTES = 20000;

/** One codec for every format: by what a file is, the library that reads it. */
export function anyCodec(libraries: Libraries): Codec {
  const once = <T>(make: () => Promise<T>): (() => Promise<T>) => {
    let loaded: Promise<T> | undefined;
    return () =>
      (loaded ??= make().catch((e: unknown) => {
        loaded = undefined;
        throw e;
      }));
  };
  const vips = once(() => libraries.vips([]));
  const avif = once(() => libraries.vips(["vips-heif.wasm"]));
  const jxl = once(() => libraries.vips(["vips-jxl.wasm"]));
  const raw = once(async () => {
    const [{ rawCodec }, libraw, v] = await Promise.all([
      import("./rawCodec"),
      libraries.libraw(),
      vips(),
    ]);
    return rawCodec(libraw, v.thumbnail, v.encodeThumbnail);
  });
  const heic = once(async () => {
    const [{ heicCodec }, { loadHeicLibrary }, v] = await Promise.all([
      import("./heicCodec"),
      import("./heicLibrary"),
      vips(),
    ]);
    return heicCodec(await loadHeicLibrary(), v.encodeThumbnail);
  });
  const exr = once(async () => {
    const [{ exrCodec }, v] = await Promise.all([import("./exrCodec"), vips()]);
    return exrCodec(v.encodeThumbnail);
  });
  const decoders: Record<InputFormatEntry["decoder"], () => Promise<Decoder>> = {
    vips,
    vipsWithAvif: avif,
    vipsWithJxl: jxl,
    heic,
    raw,
    exr,
  };
  const decoderOf = (bytes: Uint8Array, name: string): Promise<Decoder> => {
    const format = inputFormatOf(bytes, name);
    if (!format)
      throw new RhizomeError(
        "not-a-picture",
        `${name} is not a picture of a kind that is read.`,
        `bring in ${READABLE}`,
      );
    return decoders[format.decoder]();
  };
  return {
    async inspect(bytes, name) {
      return (await decoderOf(bytes, name)).inspect(bytes, name);
    },
    async decode(bytes, name, downscale) {
      return (await decoderOf(bytes, name)).decode(bytes, name, downscale);
    },
    async decodeStrips(bytes, name, downscale, take) {
      return (await decoderOf(bytes, name)).decodeStrips(bytes, name, downscale, take);
    },
    async thumbnail(bytes, name, longEdge) {
      return (await decoderOf(bytes, name)).thumbnail(bytes, name, longEdge);
    },
    async softProofTable(...how) {
      return (await vips()).softProofTable(...how);
    },
    async encode(input) {
      const { format } = input;
      if (format === "pdf") {
        const limit = input.limit ? Math.max(1, input.limit - PDF_BYTES) : 0;
        const jpeg = (await vips()).encode({ ...input, format: "jpg", limit });
        const { pdfOf } = await import("./pdfPage");
        const { creator = "", frames = [] } = input.caption ?? {};
        const profile = writeProfile(input.space, input.linear);
        const picture = { ...input, jpeg: joined(jpeg), profile };
        return [await pdfOf([picture], { title: frames[0] ?? "", author: creator })];
      }
      if (format !== "exr") {
        const savers: Partial<Record<typeof format, typeof vips>> = { avif, jxl };
        return (await (savers[format] ?? vips)()).encode({ ...input, format });
      }
      const { encodeExr, exrFacts } = await import("./exrEncode");
      return [
        await encodeExr(
          input.samples as Float32Array,
          input.width,
          input.height,
          input.space,
          input.half,
          input.compression !== "none",
          exrFacts(input),
        ),
      ];
    },
  };
}
