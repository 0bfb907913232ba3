import { sampleTypeOf, type Samples } from "../kernels/heap";
import type { Decoded, Decoder } from "./codec";

/** Hands on a whole picture as one strip. */
export function inOneStrip(decode: Decoder["decode"]): Decoder["decodeStrips"] {
  return (bytes, name, downscale, take) => {
    const { samples, ...rest } = decode(bytes, name, downscale);
    take(samples, 0, samples.length);
    return { ...rest, type: sampleTypeOf(samples) };
  };
}

/** Gathers strips into a whole picture. */
export function gathered(decodeStrips: Decoder["decodeStrips"]): Decoder["decode"] {
  return (bytes, name, downscale): Decoded => {
    let samples: Samples = new Uint8Array(0);
    const { width, height, lut, matrix } = decodeStrips(bytes, name, downscale, (part, at, all) => {
      if (at === 0) samples = new (part.constructor as new (n: number) => Samples)(all);
      samples.set(part, at);
    });
    return { samples, width, height, lut, matrix };
  };
}
