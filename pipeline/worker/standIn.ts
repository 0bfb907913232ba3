import type { Codec } from "../../codecs/codec";
import type { Parts } from "../../codecs/stream";
import type { Accumulator } from "../../core/raster/accumulator";
import { fromWorking } from "../../core/colour/spaces";
import type { Exif } from "../../core/frame/frame";
import { multiply } from "../../core/math/matrix3";
import { pose, takeFrame, type RadianceImage } from "../../simulate/camera";
import { MOVING } from "../../simulate/moving";
import {
  FRAME,
  noiseAt,
  type CameraSettings,
  type PlannedShot,
  type Reach,
} from "../../simulate/programme";
import { random } from "../../core/math/random";
import { simulateSweep } from "../../simulate/sweep";
import type { Heap } from "../../kernels/heap";

/** What a frame of the stand-in camera is taken of and how. */
export interface StandInShot {
  scene: Accumulator;
  /** a scene that wraps the camera */
  reach?: Reach;
  /** mm of the lens that the scene was seen through */
  sceneFocal: number;
  settings: CameraSettings;
  shot: PlannedShot;
  /** its number, from which all chance comes */
  number: number;
  exif: Exif;
}

/** How far a hand goes from frame to frame: degrees of roll, px of a frame. */
const HAND = { roll: 0.5, px: 12 };
/** Things that move were laid out on scenes of so many px. */
const MOVING_ON = 1000;

export const standInTasks = {
  /** Turns a scene's light, in place, into the primaries of the stand-in camera's files. */
  asSrgbLight({ heap }: { heap: Heap }, { scene }: { scene: Accumulator }) {
    const [R, G, B] = planesOf(heap, scene);
    const m = fromWorking("srgb");
    for (let i = 0; i < R.length; i++) {
      const r = R[i]!;
      const g = G[i]!;
      const b = B[i]!;
      R[i] = Math.max(0, m[0]! * r + m[1]! * g + m[2]! * b);
      G[i] = Math.max(0, m[3]! * r + m[4]! * g + m[5]! * b);
      B[i] = Math.max(0, m[6]! * r + m[7]! * g + m[8]! * b);
    }
  },

  /** A frame as the stand-in camera takes it: a JPEG with what a camera writes into it. */
  async takeShot(
    { heap, codec, finished }: { heap: Heap; codec: Codec; finished(parts: Parts): Parts | Blob },
    a: StandInShot,
  ) {
    const { settings: s, shot } = a;
    const portrait = a.reach !== undefined && s.turned === "portrait";
    const width = portrait ? FRAME.height : FRAME.width;
    const height = portrait ? FRAME.width : FRAME.height;
    const noise = noiseAt(s.iso);
    const scene: RadianceImage = {
      width: a.scene.width,
      height: a.scene.height,
      planes: planesOf(heap, a.scene),
    };
    const rnd = random(a.number * 7919 + 1);
    const shake = (by: number): number => (s.hand ? (rnd() * 2 - 1) * by : 0);
    const samples = a.reach
      ? simulateSweep(
          { ...scene, piece: a.reach },
          {
            directions: [[shot.yaw, shot.pitch]],
            width,
            height,
            focalPx: (s.focal / 36) * FRAME.width,
            ev: shot.ev,
            gain: noise.gain,
            roll: s.hand ? 0.6 : 0,
            vignetting: 0.12,
            seed: a.number,
          },
        )[0]!.samples
      : (() => {
          const by = (scene.width / width) * (a.sceneFocal / s.focal);
          const moving = s.moving === "nothing" ? undefined : MOVING[s.moving]!(a.number % 7);
          const k = MOVING_ON / scene.width;
          const toScene = multiply(
            [
              by,
              0,
              (scene.width - by * width) / 2,
              0,
              by,
              (scene.height - by * height) / 2,
              0,
              0,
              1,
            ],
            pose(width, height, shake(HAND.roll), shake(HAND.px), shake(HAND.px)),
          );
          return takeFrame(scene, {
            width,
            height,
            ev: shot.ev,
            toScene,
            seed: a.number,
            ...noise,
            vignetting: 0.1,
            ...(moving
              ? {
                  moving: (x: number, y: number, rgb: [number, number, number]) =>
                    moving(x * k, y * k, rgb),
                }
              : {}),
          });
        })();
    return finished(
      await codec.encode({
        samples,
        width,
        height,
        format: "jpg",
        space: "srgb",
        linear: false,
        quality: 93,
        chroma: "full",
        compression: "none",
        half: false,
        ppi: 300,
        metadataFrom: { bytes: new Uint8Array(0), name: "stand-in.raw", exif: a.exif },
      }),
    );
  },
};

function planesOf(
  heap: Heap,
  { ptr, planeBytes, width, height }: Accumulator,
): [Float32Array, Float32Array, Float32Array] {
  return [0, 1, 2].map((c) => heap.f32(ptr + c * planeBytes, width * height)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
}
