import { toWorking } from "../core/colour/spaces";
import { diagonal } from "../core/colour/whiteBalance";
import type { FrameInfo } from "../core/frame/frame";
import { multiply } from "../core/math/matrix3";
import { boxReduce } from "./boxReduce";
import type { Decoded, Decoder } from "./codec";
import { readDngLens } from "./dngLens";
import { readExif } from "./exif";
import { checkHeldWhole } from "./heldWhole";
import { checkSize, damaged } from "./limits";
import { inOneStrip } from "./strips";

/** The part of LibRaw's binding that is used. */
interface Raw {
  open(bytes: Uint8Array, settings: object): void;
  metadata(full: boolean): {
    /** upright */
    width: number;
    height: number;
    camera_make: string;
    camera_model: string;
    iso_speed: number;
    shutter: number;
    aperture: number;
    focal_len: number;
    timestamp: number;
    color_data: { cam_mul: number[]; pre_mul: number[]; rgb_cam: number[][] };
  };
  imageData():
    { width: number; height: number; colors: number; bits: number; data: Uint8Array } | undefined;
  thumbnailData(): { format: string | number; data: Uint8Array } | undefined;
  delete(): void;
}
export interface LibRaw {
  LibRaw: new () => Raw;
}

// camera RGB, not balanced, not brightened, saturation at the top of 16 bit
const SETTINGS = {
  outputBps: 16,
  outputColor: 0,
  useCameraMatrix: 0,
  useCameraWb: false,
  userMul: [1, 1, 1, 1],
  noAutoBright: true,
  adjustMaximumThr: 0,
  highlight: 0,
  userQual: 3,
};

/**
 * The binding always encodes with the curve of BT.709 (power 1 / 2.222, toe slope 4.5); this undoes
 * it.
 */
const LINEAR = Float32Array.from({ length: 65536 }, (_, i) => {
  const v = i / 65535;
  return v < 0.0812428583 ? v / 4.5 : ((v + 0.0992968268) / 1.0992968268) ** (1 / 0.45);
});

/**
 * Camera raws through LibRaw: linear camera RGB in 16 bit, in which saturation is one number for
 * each channel. The as-shot white balance is part of the matrix, not of the samples, so highlights
 * above 1.0 stay where channels allow.
 */
export function rawCodec(
  libraw: LibRaw,
  jpegThumbnail: (jpeg: Uint8Array, name: string, longEdge: number) => Uint8Array,
  encodeThumbnail: (d: Decoded, longEdge: number) => Uint8Array,
): Decoder {
  function opened<T>(bytes: Uint8Array, name: string, settings: object, use: (raw: Raw) => T): T {
    const raw = new libraw.LibRaw();
    try {
      raw.open(bytes, { ...SETTINGS, ...settings });
      return use(raw);
    } catch (e) {
      throw damaged(name, e);
    } finally {
      raw.delete();
    }
  }
  const decoder: Decoder = {
    inspect(bytes, name): FrameInfo {
      const m = opened(bytes, name, {}, (raw) => raw.metadata(true));
      const { width, height } = m;
      checkSize(name, width, height);
      checkHeldWhole({ name, format: "raw", width, height });
      const own = {
        ...(m.shutter > 0 ? { exposureTime: m.shutter } : {}),
        ...(m.aperture > 0 ? { aperture: m.aperture } : {}),
        ...(m.iso_speed > 0 ? { iso: m.iso_speed } : {}),
        ...(m.focal_len > 0 ? { focalLength: m.focal_len } : {}),
        camera: `${m.camera_make} ${m.camera_model}`.trim(),
      };
      const lens = readDngLens(bytes);
      return {
        name,
        format: "raw",
        width,
        height,
        depth: 16,
        profile: "camera",
        exif: { ...own, ...readExif(bytes) },
        ...(lens ? { lens } : {}),
      };
    },

    decode(bytes, name, downscale): Decoded {
      return opened(bytes, name, { halfSize: downscale > 1 }, (raw) => {
        const m = raw.metadata(true);
        const { width, height } = m;
        checkSize(name, width, height);
        checkHeldWhole({ name, format: "raw", width, height });
        const d = raw.imageData();
        if (!d || d.bits !== 16 || (d.colors !== 3 && d.colors !== 1))
          throw damaged(
            name,
            `no picture of three colours in 16 bit${d ? ` but ${d.colors} in ${d.bits}` : ""}`,
          );
        const all = new Uint16Array(d.data.slice().buffer);
        const n = d.width * d.height;
        let samples = all;
        if (d.colors === 1) {
          samples = new Uint16Array(n * 3);
          for (let i = 0; i < n; i++) samples.fill(all[i]!, i * 3, i * 3 + 3);
        }
        const left = d.width < width ? downscale / 2 : downscale;
        const reduced =
          left > 1
            ? boxReduce(samples, d.width, d.height, left)
            : { samples, width: d.width, height: d.height };
        const { cam_mul: asShot, pre_mul: daylight, rgb_cam: c } = m.color_data;
        const mul = asShot[0]! > 0 && asShot[2]! > 0 ? asShot : daylight;
        const toSrgb = c.slice(0, 3).flatMap((row) => row.slice(0, 3));
        const lut = new Float32Array(65536 * 3);
        for (let k = 0; k < 3; k++) lut.set(LINEAR, k * 65536);
        return {
          ...reduced,
          lut,
          matrix: multiply(
            toWorking("srgb"),
            multiply(toSrgb, diagonal([mul[0]! / mul[1]!, 1, mul[2]! / mul[1]!])),
          ),
        };
      });
    },

    decodeStrips: (...args) => inOneStrip(decoder.decode)(...args),

    thumbnail(bytes, name, longEdge) {
      const embedded = opened(bytes, name, {}, (raw) => {
        try {
          const t = raw.thumbnailData();
          return t && t.data[0] === 0xff && t.data[1] === 0xd8 ? t.data.slice() : undefined;
        } catch {
          return undefined;
        }
      });
      return embedded
        ? jpegThumbnail(embedded, name, longEdge)
        : encodeThumbnail(decoder.decode(bytes, name, 8), longEdge);
    },
  };
  return decoder;
}
