import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import Vips from "wasm-vips";
import { apply } from "../../core/math/matrix3";
import { decode as decodeCurve, SPACES, toWorking } from "../../core/colour/spaces";
import { anyCodec } from "../../codecs/anyCodec";
import type { Decoded, EncodeInput } from "../../codecs/codec";
import type { LibRaw } from "../../codecs/rawCodec";
import { joined } from "../../codecs/stream";
import { vipsCodec } from "../../codecs/vipsCodec";

const libraw = join(process.cwd(), "node_modules/libraw-wasm/dist/libraw.js");
/** The codec as a worker on Node has it. */
export const codec = anyCodec({
  vips: async (modules) =>
    vipsCodec(
      await Vips({
        dynamicLibraries: [...modules],
        preRun: (m) => {
          (m as unknown as { ENV: Record<string, string> }).ENV["VIPS_WARNING"] = "1";
        },
      }),
    ),
  libraw: async () =>
    (
      (await import(pathToFileURL(libraw).href)) as { default: (o: object) => Promise<LibRaw> }
    ).default({
      wasmBinary: readFileSync(libraw.replace(".js", ".wasm")),
      print: () => undefined,
      printErr: () => undefined,
    }),
});
/** A folder that holds the known picture in 8 and 16 bit, for the files of a test file, and independent tools that are called in it. */
export function ownFolder(): { dir(): string; tool(name: string, ...args: string[]): string } {
  let dir = "";
  beforeAll(() => {
    dir = mkdtempSync(join(tmpdir(), "rhizome-codecs-"));
    writeFileSync(join(dir, "8.ppm"), pnm(picture((n) => new Uint8Array(n), 255)));
    writeFileSync(join(dir, "16.ppm"), pnm(picture((n) => new Uint16Array(n), 65535)));
  });
  afterAll(() => rmSync(dir, { recursive: true, force: true }));
  return {
    dir: () => dir,
    tool: (name, ...args) =>
      execFileSync(name, args, { encoding: "utf8", cwd: dir, stdio: ["ignore", "pipe", "pipe"] }),
  };
}

/** Size of the known picture, px. */
export const W = 61;
export const H = 45;
/** A picture of known values: ramps and a mark in the top left corner, 0..1. */
export const value = (x: number, y: number, c: number): number =>
  x < 6 && y < 4 ? [0.9, 0.1, 0.2][c]! : [x / W, y / H, (x + y) / (W + H)][c]! * 0.9 + 0.02;
/** The known picture as samples. @param top  what 1 is */
export const picture = <T extends Uint8Array | Uint16Array | Float32Array>(
  make: (n: number) => T,
  top: number,
): T => {
  const out = make(W * H * 3);
  for (let i = 0; i < out.length; i++) {
    const v = value(Math.floor(i / 3) % W, Math.floor(i / 3 / W), i % 3) * top;
    out[i] = top === 1 ? v : Math.round(v);
  }
  return out;
};
/** What is given to be encoded. */
export const input = (
  samples: EncodeInput["samples"],
  more: Partial<EncodeInput>,
): EncodeInput => ({
  samples,
  width: W,
  height: H,
  format: "tif",
  space: "srgb",
  linear: false,
  quality: 95,
  chroma: "full",
  compression: "none",
  half: false,
  ppi: 300,
  ...more,
});
/** A file as it is written. */
export const written = async (i: EncodeInput): Promise<Uint8Array> => joined(await codec.encode(i));
/** Linear Rec. 2020 of a decoded pixel. */
export const working = (d: Decoded, x: number, y: number): number[] => {
  const size = d.lut.length / 3;
  const o = (y * d.width + x) * 3;
  return apply(
    d.matrix,
    [0, 1, 2].map((c) => (size ? d.lut[c * size + d.samples[o + c]!]! : d.samples[o + c]!)),
  );
};
/**
 * The largest error against the known picture, as encoded sRGB values were read, in linear light.
 */
export function worst(d: Decoded, linear = false): number {
  let m = 0;
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const truth = apply(
        toWorking("srgb"),
        [0, 1, 2].map((c) =>
          linear ? value(x, y, c) : decodeCurve(SPACES.srgb.curve, value(x, y, c)),
        ),
      );
      working(d, x, y).forEach((v, c) => {
        m = Math.max(m, Math.abs(v - truth[c]!));
      });
    }
  return m;
}
/** The known picture as a file that other programs read. */
export const pnm = (samples: Uint8Array | Uint16Array): Buffer => {
  const wide = samples instanceof Uint16Array;
  const body = wide ? Buffer.from(samples.buffer.slice(0)).swap16() : Buffer.from(samples);
  return Buffer.concat([Buffer.from(`P6\n${W} ${H}\n${wide ? 65535 : 255}\n`), body]);
};
