// Photographs as scenes for the simulated camera; shared by the benches.
import Vips from "wasm-vips";
import { decode, SPACES } from "../core/colour/spaces";
import type { RadianceImage } from "../simulate/camera";
import { random } from "../core/math/random";

/**
 * Stops over which the light falls across the scene, and by which openings are brighter than the
 * rest at most.
 */
const FALL_EV = 4;
const OPENING_EV = 5;
/** Light below which the photograph is pure black. */
const BLACK = 4e-4;

const vips = await Vips({ dynamicLibraries: [] });
vips.Cache.max(0);

export const DECODED = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);

/** A photograph cut to w x h px, as linear light, 1 = white. */
export function photographLight(photograph: string, width: number, height: number): RadianceImage {
  const small = vips.Image.thumbnail(photograph, width, { height, crop: "centre", size: "both" });
  const image = small.colourspace("srgb");
  const opaque = image.hasAlpha() ? image.flatten() : image;
  const flat = opaque.cast("uchar");
  const bytes = flat.writeToMemory();
  const n = width * height;
  const planes = [0, 1, 2].map((c) =>
    Float32Array.from({ length: n }, (_, i) => DECODED[bytes[i * 3 + c]!]!),
  ) as unknown as RadianceImage["planes"];
  for (const used of new Set([small, image, opaque, flat])) used.delete();
  return { width, height, planes };
}

/**
 * The same in a light of several stops with three hard-edged openings, which are marked; what
 * is dark in it is black.
 */
export function illuminate(
  photograph: string,
  width: number,
  height: number,
  seed: number,
): RadianceImage & { openings: Uint8Array } {
  const scene = {
    ...photographLight(photograph, width, height),
    openings: new Uint8Array(width * height),
  };
  const rnd = random(seed);
  const openings = Array.from({ length: 3 }, () => ({
    x: rnd(),
    y: rnd(),
    width: 0.06 + 0.15 * rnd(),
    height: 0.08 + 0.2 * rnd(),
    ev: OPENING_EV * (0.5 + 0.5 * rnd()),
  }));
  const slopeX = (rnd() - 0.5) * FALL_EV;
  const slopeY = (rnd() - 0.5) * FALL_EV;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const u = x / width;
      const v = y / height;
      const opening = openings.find(
        (o) => Math.abs(u - o.x) < o.width / 2 && Math.abs(v - o.y) < o.height / 2,
      );
      if (opening) scene.openings[i] = 1;
      const light = 2 ** ((u - 0.5) * slopeX + (v - 0.5) * slopeY + (opening?.ev ?? -1));
      for (const plane of scene.planes) plane[i] = plane[i]! < BLACK ? 0 : plane[i]! * light;
    }
  return scene;
}

/** RGB bytes as a JPEG file. */
export function toJpeg(
  samples: Uint8Array,
  width: number,
  height: number,
  exif: Record<string, string> = {},
  quality = 90,
): Uint8Array {
  const raw = vips.Image.newFromMemory(samples, width, height, 3, vips.BandFormat.uchar);
  const image = raw.copy({ interpretation: "srgb" });
  for (const [name, value] of Object.entries(exif)) image.setString(`exif-ifd2-${name}`, value);
  const file = image.jpegsaveBuffer({ Q: quality });
  for (const used of [raw, image]) used.delete();
  return file;
}

/** Through the file: JPEG's blocks and rounding belong to a real frame. */
export function throughJpeg(samples: Uint8Array, width: number, height: number): Uint8Array {
  const image = vips.Image.newFromBuffer(toJpeg(samples, width, height));
  const out = image.writeToMemory() as Uint8Array;
  image.delete();
  return out;
}
