import type { Codec } from "../codecs/codec";
import { decode, SPACES, toWorking } from "../core/colour/spaces";
import type { StackFrame } from "../pipeline/work";
import type { Exif } from "../core/frame/frame";
import { Pool } from "../pipeline/pool";
import type { WorkerLike } from "../runtime/worker";
import type { Reply } from "../runtime/serve";
import { serveTasks } from "../pipeline/worker/serveTasks";

/** A frame of 8-bit sRGB samples that lies in memory instead of a file. */
export interface MemoryFrame {
  name: string;
  samples: Uint8Array;
  width: number;
  height: number;
  exif?: Exif;
}

const LUT = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);

/**
 * The engine on the test's own thread, with frames from memory in place of files: what the steps do
 * is what they do in a worker. A frame can be read at full size only.
 */
export function inProcess(
  frames: readonly MemoryFrame[],
  budget?: number,
  /** other files, by name */
  files: ReadonlyMap<string, Uint8Array> = new Map(),
): { pool: Pool; frames: StackFrame[]; /** how often frames were read */ reads: () => number } {
  let reads = 0;
  const never = (): never => {
    throw new Error("not in memory");
  };
  const codec: Codec = {
    inspect: never,
    decode: never,
    thumbnail: never,
    encode: never,
    softProofTable: never,
    decodeStrips(_bytes, name, downscale, take) {
      const f = frames.find((x) => x.name === name)!;
      if (downscale !== 1) never();
      reads++;
      // in strips of some rows, as files come
      for (let y = 0; y < f.height; y += 24)
        if (
          take(
            f.samples.subarray(y * f.width * 3, Math.min(f.height, y + 24) * f.width * 3),
            y * f.width * 3,
            f.samples.length,
          ) === false
        )
          break;
      return Promise.resolve({
        type: "u8",
        width: f.width,
        height: f.height,
        lut: LUT,
        matrix: [...toWorking("srgb")],
      });
    },
  };
  const spawn = (): WorkerLike => {
    let answer: (reply: Reply) => void = () => undefined;
    const take = serveTasks(
      (reply) => answer(reply),
      codec,
      ({ name }) => Promise.resolve(files.get(name) ?? new Uint8Array()),
    );
    return {
      // what cannot be sent to a worker fails here as well
      post: (message) =>
        take(
          message.kind === "call" ? { ...message, args: structuredClone(message.args) } : message,
        ),
      onReply: (f) => {
        answer = f;
      },
      onLost: () => undefined,
      close: () => Promise.resolve(),
    };
  };
  return {
    pool: new Pool({ threads: 1, spawn }, budget),
    reads: () => reads,
    frames: frames.map(({ name, width, height, exif = {} }) => ({
      id: name,
      content: name,
      source: { name },
      info: { name, format: "png", width, height, depth: 8, profile: "sRGB", exif },
    })),
  };
}
