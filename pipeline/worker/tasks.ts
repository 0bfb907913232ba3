import type { Codec, EncodeInput } from "../../codecs/codec";
import type { SoftProofIntent } from "../../codecs/softProof";
import type { SpaceId } from "../../core/colour/spaces";
import type { Parts } from "../../codecs/stream";
import type { Accumulator } from "../../core/raster/accumulator";
import { stepTasks } from "../tasks";
import type { Exif, FrameInfo } from "../../core/frame/frame";
import type { ComparedPairs } from "../../core/grouping/pairStatistics";
import { groupFrames } from "../../core/grouping/groupFrames";
import { SIGNATURE_FROM, makeSignature, type FrameSignature } from "../../core/grouping/signature";
import type { LoadedFrame } from "../loadedFrame";
import type { MergeFindings } from "../merge/input";
import type { PixelKind } from "../../core/tone/renderStrip";
import { sampleTypeOf, type Heap } from "../../kernels/heap";
import { listZip, unpackZipped, type ZippedPicture } from "../../codecs/zip";
import { contentHash } from "../contentHash";
import { standInTasks } from "./standIn";
import { readRecord, writeRecord } from "../../runtime/binaryRecord";
import { packScene, readPacked, type SceneParts } from "../cache/packScene";
import { type FileSource } from "../../runtime/files";

export interface TaskContext {
  heap: Heap;
  codec: Codec;
  read(source: FileSource): Promise<Uint8Array>;
  /**
   * a finished file as the host hands it on: a Blob costs the page's thread nothing, however large
   */
  finished(parts: Parts): Parts | Blob;
}

/**
 * Everything a worker can be asked for. Arguments and results are plain data; pixels stay in the
 * shared memory.
 */
export const tasks = {
  ...stepTasks,

  async inspect(
    { codec, read }: TaskContext,
    a: {
      source: FileSource;
      thumbnail: number;
      /** whether to make the signature that grouping compares */
      signature?: boolean;
    },
  ) {
    const bytes = await read(a.source);
    const hash = await contentHash(bytes);
    const info = await codec.inspect(bytes, a.source.name);
    const edge = a.thumbnail || (a.signature ? SIGNATURE_FROM : 0);
    const thumbnail = edge ? await codec.thumbnail(bytes, a.source.name, edge) : undefined;
    return {
      info,
      size: bytes.length,
      thumbnail: a.thumbnail ? thumbnail : undefined,
      signature: a.signature
        ? makeSignature(await codec.decode(thumbnail!, `${a.source.name}.jpg`, 1))
        : undefined,
      hash,
    };
  },

  /** A whole frame as a JPEG that any browser shows. */
  async picture(
    { codec, read, finished }: TaskContext,
    a: { source: FileSource; longEdge: number },
  ) {
    return finished([
      (await codec.thumbnail(
        await read(a.source),
        a.source.name,
        a.longEdge,
      )) as Uint8Array<ArrayBuffer>,
    ]);
  },

  /** What is in a zip. @throws RhizomeError `damaged` */
  listZip: (_: TaskContext, a: { name: string; blob: Blob }) => listZip(a.blob, a.name),

  /** One picture of a zip. @throws RhizomeError `damaged` */
  unpackZipped: (_: TaskContext, a: { name: string; blob: Blob; picture: ZippedPicture }) =>
    unpackZipped(a.blob, a.name, a.picture),

  /**
   * Finds the stacks; with `compared` also what was found about pairs, so that it need not be found
   * again when more frames have come.
   */
  group(
    _: TaskContext,
    a: {
      frames: FrameInfo[];
      signatures: (FrameSignature | undefined)[];
      gapSeconds?: number;
      compared?: { keys: string[]; pairs: ComparedPairs };
    },
  ) {
    return {
      stacks: groupFrames(a.frames, a.signatures, a.gapSeconds, a.compared),
      pairs: a.compared?.pairs,
    };
  },

  /** Share of samples at either end, on a reduced picture. */
  async clipping({ codec, read }: TaskContext, a: { source: FileSource; downscale: number }) {
    let hi = 0;
    let lo = 0;
    let n = 1;
    await codec.decodeStrips(await read(a.source), a.source.name, a.downscale, (part, _, all) => {
      const type = sampleTypeOf(part);
      const top = { u8: 253, u16: 64500, f32: 0.98 }[type];
      const low = { u8: 2, u16: 500, f32: 1e-4 }[type];
      for (let i = 0; i < part.length; i += 3) {
        const m = Math.max(part[i]!, part[i + 1]!, part[i + 2]!);
        if (m >= top) hi++;
        else if (m <= low) lo++;
      }
      n = all / 3;
    });
    return { bright: hi / n, dark: lo / n };
  },

  /** Reads a frame, or only its rows `rows[0]` to `rows[1]`, to `dst`. */
  async decode(
    { heap, codec, read }: TaskContext,
    a: {
      source: FileSource;
      downscale: number;
      dst: number;
      bytes: number;
      width: number;
      rows?: readonly [number, number];
    },
  ): Promise<Omit<LoadedFrame, "ptr">> {
    const [from, to] = a.rows
      ? (a.rows.map((y) => y * a.width * 3) as [number, number])
      : [0, Infinity];
    const decoded = await codec.decodeStrips(
      await read(a.source),
      a.source.name,
      a.downscale,
      (part, at, all) => {
        const wanted = Math.min(all, to) - from;
        const bytes = wanted * part.BYTES_PER_ELEMENT;
        if (bytes > a.bytes)
          throw new RangeError(`${a.source.name}: ${bytes} bytes where ${a.bytes} were planned`);
        const first = Math.max(from, at);
        const last = Math.min(from + wanted, at + part.length);
        if (first < last) {
          heap.ensure(a.dst + bytes);
          heap
            .samples(a.dst, sampleTypeOf(part), wanted)
            .set(part.subarray(first - at, last - at), first - from);
        }
        return at + part.length < to;
      },
    );
    return a.rows
      ? { ...decoded, top: a.rows[0], height: Math.min(decoded.height, a.rows[1]) - a.rows[0] }
      : decoded;
  },

  /** Mean radiance of a small square, for readings and the neutral picker. */
  sample({ heap }: TaskContext, a: { scene: Accumulator; x: number; y: number; radius: number }) {
    const { width: w, height: h } = a.scene;
    const x0 = Math.max(0, a.x - a.radius);
    const x1 = Math.min(w - 1, a.x + a.radius);
    const y0 = Math.max(0, a.y - a.radius);
    const y1 = Math.min(h - 1, a.y + a.radius);
    return [0, 1, 2].map((c) => {
      const p = heap.f32(a.scene.ptr + c * a.scene.planeBytes, w * h);
      let s = 0;
      let n = 0;
      for (let y = y0; y <= y1; y++) for (let x = x0; x <= x1; x++, n++) s += p[y * w + x]!;
      return n ? s / n : 0;
    }) as [number, number, number];
  },

  /** A merged scene as bytes to be kept. */
  pack({ heap, finished }: TaskContext, a: { scene: SceneParts; findings: MergeFindings }) {
    return finished([packScene(heap, a.scene, a.findings)]);
  },

  /**
   * Lays a kept scene into memory at `parts`, if given, and tells what was found about it; nothing
   * when it is damaged or of another size.
   */
  async unpack({ heap, read }: TaskContext, a: { source: FileSource; parts?: SceneParts }) {
    const packed = readPacked(await read(a.source));
    const p = a.parts;
    if (!packed) return undefined;
    if (p) {
      if (
        packed.head.width !== p.width ||
        packed.head.height !== p.height ||
        packed.head.planeBytes !== p.planeBytes ||
        packed.head.mapped !== (p.sources !== undefined)
      )
        return undefined;
      heap.ensure(Math.max(p.ptr + p.planeBytes * 4, p.analysis + packed.analysis.length));
      heap.u8(p.ptr, packed.planes.length).set(packed.planes);
      heap.u8(p.analysis, packed.analysis.length).set(packed.analysis);
      if (p.sources !== undefined) {
        heap.ensure(p.sources + packed.sources.length);
        heap.u8(p.sources, packed.sources.length).set(packed.sources);
      }
    }
    return packed.findings;
  },

  /** Plain data with typed arrays in it as bytes to be kept, and back. */
  packRecord({ finished }: TaskContext, a: { value: object }) {
    return finished([writeRecord(a.value)]);
  },
  async unpackRecord({ read }: TaskContext, a: { source: FileSource }) {
    return readRecord(await read(a.source));
  },

  /** Parts of the memory, address and length of each, one after the other, to be kept. */
  packPixels({ heap, finished }: TaskContext, a: { parts: [number, number][] }) {
    const out = new Uint8Array(a.parts.reduce((n, [, bytes]) => n + bytes, 0));
    let at = 0;
    for (const [ptr, bytes] of a.parts) {
      out.set(heap.u8(ptr, bytes), at);
      at += bytes;
    }
    return finished([out]);
  },

  /** Lays what `packPixels` packed back into memory; false where it is not as long. */
  async unpackPixels(
    { heap, read }: TaskContext,
    a: { source: FileSource; parts: [number, number][] },
  ) {
    const bytes = await read(a.source);
    if (bytes.length !== a.parts.reduce((n, [, own]) => n + own, 0)) return false;
    let at = 0;
    for (const [ptr, own] of a.parts) {
      heap.ensure(ptr + own);
      heap.u8(ptr, own).set(bytes.subarray(at, at + own));
      at += own;
    }
    return true;
  },

  ...standInTasks,

  /** How a printer's profile shows the colours of a space. */
  softProofTable(
    { codec }: TaskContext,
    a: { profile: Uint8Array; name: string; intent: SoftProofIntent; space: SpaceId },
  ) {
    return codec.softProofTable(a.profile, a.name, a.intent, a.space);
  },

  async encode(
    { heap, codec, read, finished }: TaskContext,
    a: {
      ptr: number;
      width: number;
      height: number;
      /** address of its coverage in bytes */
      coverage?: number;
      /** the same of its gain beyond white */
      gain?: number;
      headroom?: number;
      kind: PixelKind;
      /** the file whose metadata goes with it */
      metadataFrom?: { source: FileSource; exif: Exif };
    } & Omit<EncodeInput, "samples" | "alpha" | "gain" | "metadataFrom">,
  ) {
    const n = a.width * a.height * 3;
    // views: the codec reads them where they lie
    let samples: Float32Array | Uint16Array | Uint8Array;
    if (a.kind === "rgb32f") samples = heap.f32(a.ptr, n);
    else if (a.kind === "rgb16") samples = heap.u16(a.ptr, n);
    else samples = heap.u8(a.ptr, n);
    const { metadataFrom, coverage, gain, headroom = 0, ...rest } = a;
    const plane = (at: number): Uint8Array => heap.u8(at, a.width * a.height);
    return finished(
      await codec.encode({
        ...rest,
        samples,
        ...(coverage === undefined ? {} : { alpha: plane(coverage) }),
        ...(gain === undefined ? {} : { gain: { values: plane(gain).slice(), headroom } }),
        ...(metadataFrom
          ? {
              metadataFrom: {
                bytes: await read(metadataFrom.source),
                name: metadataFrom.source.name,
                exif: metadataFrom.exif,
              },
            }
          : {}),
      }),
    );
  },
};

export type Tasks = typeof tasks;
