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

/** A frame at 1/downscale of its size: samples averaged in blocks, as decoders do. */
function reducedFrame(frame: MemoryFrame, downscale: number): MemoryFrame {
  if (downscale === 1) return frame;
  const width = Math.ceil(frame.width / downscale);
  const height = Math.ceil(frame.height / downscale);
  const samples = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++)
        samples[3 * (y * width + x) + c] = meanOfBlock(
          frame,
          x * downscale,
          y * downscale,
          c,
          downscale,
        );
  return { ...frame, samples, width, height };
}

/** The mean of a channel over a block of samples, as far as it lies in the frame. */
function meanOfBlock(frame: MemoryFrame, x0: number, y0: number, c: number, size: number): number {
  const x1 = Math.min(frame.width, x0 + size);
  const y1 = Math.min(frame.height, y0 + size);
  let sum = 0;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) sum += frame.samples[3 * (y * frame.width + x) + c]!;
  return Math.round(sum / ((x1 - x0) * (y1 - y0)));
}

/**
 * The engine on the test's own thread, with frames from memory in place of files: what the steps do
 * is what they do in a worker.
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
      const f = reducedFrame(
        frames.find((x) => x.name === name)!,
        downscale,
      );
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
