import type { Codec, EncodeInput } from "../../codecs/codec";
import { alignStack, type AlignOptions } from "../../core/align/alignStack";
import { CELL_PLANES, fillCells, fillHoles, measureCells, type Fill, type Holes } from "../../core/bracket/fillHoles";
import { foldFrame, type Accumulator, type FoldInput } from "../../core/bracket/foldFrame";
import { renderStrip, bytesPerPixel, type PixelKind, type RenderSettings } from "../../core/tone/renderStrip";
import { localTone, toneFieldBytes, type ToneField, type ToneSettings } from "../../core/tone/localTone";
import { basisBytes, toneBasis } from "../../core/tone/toneBasis";
import { reduceToGrid, type ToneGrid } from "../../core/tone/toneGrid";
import { sceneStatistics } from "../../core/tone/sceneStatistics";
import { markClipped } from "../../core/tone/markClipped";
import { sampleTypeOf, type Heap, type SampleType } from "../../kernels/heap";

/** Where a frame's bytes are: a Blob in the browser, a path on Node. */
export interface Source { name: string; blob?: Blob; path?: string }
export interface TaskContext {
  heap: Heap; codec: Codec; read(source: Source): Promise<Uint8Array>;
  /** a finished file as the host hands it on: a Blob costs the page's thread nothing, however large */
  finished(bytes: Uint8Array): Uint8Array | Blob;
}
/** Samples in the workers' memory. */
export interface HeldSamples { ptr: number; width: number; height: number; type: SampleType; lut: Float32Array; matrix: number[] }

type Region = { x: number; y: number; width: number; height: number };

/** Everything a worker can be asked for. Arguments and results are plain data; pixels stay in the shared memory. */
export const tasks = {
  async inspect({ codec, read }: TaskContext, a: { source: Source; thumbnail: number }) {
    const bytes = await read(a.source);
    const hash = new Uint8Array(await crypto.subtle.digest("SHA-256", bytes as BufferSource));
    return {
      info: await codec.inspect(bytes, a.source.name), size: bytes.length,
      thumbnail: a.thumbnail ? await codec.thumbnail(bytes, a.source.name, a.thumbnail) : undefined,
      hash: Array.from(hash.subarray(0, 16), (b) => b.toString(16).padStart(2, "0")).join(""),
    };
  },

  /** Share of samples at either end, on a reduced picture. */
  async clipping({ codec, read }: TaskContext, a: { source: Source; shrink: number }) {
    const d = await codec.decode(await read(a.source), a.source.name, a.shrink);
    const type = sampleTypeOf(d.samples), top = { u8: 253, u16: 64500, f32: 0.98 }[type], low = { u8: 2, u16: 500, f32: 1e-4 }[type];
    let hi = 0, lo = 0;
    for (let i = 0; i < d.samples.length; i += 3) {
      const m = Math.max(d.samples[i]!, d.samples[i + 1]!, d.samples[i + 2]!);
      if (m >= top) hi++; else if (m <= low) lo++;
    }
    return { bright: (hi * 3) / d.samples.length, dark: (lo * 3) / d.samples.length };
  },

  async decode({ heap, codec, read }: TaskContext, a: { source: Source; shrink: number; dst: number; bytes: number }): Promise<Omit<HeldSamples, "ptr">> {
    const d = await codec.decode(await read(a.source), a.source.name, a.shrink);
    const raw = new Uint8Array(d.samples.buffer, d.samples.byteOffset, d.samples.byteLength);
    if (raw.length > a.bytes) throw new RangeError(`${a.source.name}: ${raw.length} bytes where ${a.bytes} were planned`);
    heap.ensure(a.dst + raw.length);
    heap.u8(a.dst, raw.length).set(raw);
    return { width: d.width, height: d.height, type: sampleTypeOf(d.samples), lut: d.lut, matrix: d.matrix };
  },

  align({ heap }: TaskContext, a: { frames: HeldSamples[]; evs: (number | undefined)[]; options: AlignOptions }) {
    return alignStack(heap, a.frames, a.evs, a.options);
  },

  clear({ heap }: TaskContext, a: { ptr: number; bytes: number }) {
    heap.ensure(a.ptr + a.bytes);
    heap.u8(a.ptr, a.bytes).fill(0);
  },

  fold({ heap }: TaskContext, a: { acc: Accumulator; input: FoldInput; y0: number; y1: number }) {
    heap.ensure(a.acc.ptr + a.acc.planeBytes * 4);
    foldFrame(heap, a.acc, a.input, a.y0, a.y1);
  },

  finalise({ heap }: TaskContext, a: { acc: Accumulator; matrix: number[]; y0: number; y1: number }) {
    const m = heap.put(a.matrix);
    heap.k.finaliseRadiance(a.acc.ptr + a.y0 * a.acc.width * 4, a.acc.planeBytes, (a.y1 - a.y0) * a.acc.width, m);
  },

  measureCells({ heap }: TaskContext, a: { acc: Accumulator; holes: Holes; g0: number; g1: number }) { return measureCells(heap, a.acc, a.holes, a.g0, a.g1); },

  fillCells(_: TaskContext, { parts, holes: { width, height } }: { parts: { g0: number; g1: number; cells: Float32Array }[]; holes: Holes }) {
    const all = new Float32Array(width * height * CELL_PLANES);
    for (const { g0, g1, cells } of parts) for (let c = 0; c < CELL_PLANES; c++) all.set(cells.subarray(c * width * (g1 - g0), (c + 1) * width * (g1 - g0)), (c * height + g0) * width);
    return fillCells(all, width, height);
  },

  fillHoles({ heap }: TaskContext, a: { acc: Accumulator; holes: Holes; fill: Fill; y0: number; y1: number }) { fillHoles(heap, a.acc, a.holes, a.fill, a.y0, a.y1); },

  reduce({ heap }: TaskContext, a: { scene: Accumulator; grid: ToneGrid; g0: number; g1: number }) {
    heap.ensure(a.grid.ptr + a.grid.width * a.grid.height * 4);
    reduceToGrid(heap, a.scene, a.grid, a.g0, a.g1);
  },

  toneBasis({ heap }: TaskContext, a: { grid: ToneGrid; basis: number; part: number }) {
    heap.ensure(a.basis + basisBytes(a.grid));
    toneBasis(heap, a.grid, a.basis, a.part);
  },

  tone({ heap }: TaskContext, a: { grid: ToneGrid; basis: number; settings: ToneSettings; at: number }): ToneField {
    heap.ensure(a.at + toneFieldBytes(a.grid));
    return localTone(heap, a.grid, a.basis, a.settings, a.at);
  },

  statistics({ heap }: TaskContext, a: { grid: ToneGrid }) { return sceneStatistics(heap, a.grid); },

  /** Renders rows y0..y1 of a region. With `dst` into memory, else the bytes come back. */
  render({ heap }: TaskContext, a: { scene: Accumulator; field: ToneField; settings: RenderSettings; region: Region; kind: PixelKind; dst?: number; y0: number; y1: number; clipped?: boolean }) {
    const bytes = (a.y1 - a.y0) * a.region.width * bytesPerPixel(a.kind);
    const part = { ...a.region, y: a.region.y + a.y0, height: a.y1 - a.y0 };
    if (a.dst !== undefined) heap.ensure(a.dst + a.y1 * a.region.width * bytesPerPixel(a.kind));
    const at = a.dst !== undefined ? a.dst + a.y0 * a.region.width * bytesPerPixel(a.kind) : heap.alloc(bytes + 64);
    renderStrip(heap, a.scene, a.field, a.settings, part, a.kind, at, 0, a.y1 - a.y0);
    if (a.dst !== undefined) return undefined;
    const pixels = heap.u8(at, bytes).slice();
    if (a.clipped) markClipped(pixels, a.region.width, part.x, part.y);
    return pixels;
  },

  /** Mean radiance of a small square, for readings and the neutral picker. */
  sample({ heap }: TaskContext, a: { scene: Accumulator; x: number; y: number; radius: number }) {
    const { width: w, height: h } = a.scene;
    const x0 = Math.max(0, a.x - a.radius), x1 = Math.min(w - 1, a.x + a.radius), y0 = Math.max(0, a.y - a.radius), y1 = Math.min(h - 1, a.y + a.radius);
    return [0, 1, 2].map((c) => {
      const p = heap.f32(a.scene.ptr + c * a.scene.planeBytes, w * h);
      let s = 0, n = 0;
      for (let y = y0; y <= y1; y++) for (let x = x0; x <= x1; x++, n++) s += p[y * w + x]!;
      return n ? s / n : 0;
    }) as [number, number, number];
  },

  async encode({ heap, codec, read, finished }: TaskContext, a: { ptr: number; width: number; height: number; kind: "rgb8" | "rgb16" | "rgb32f"; metadataFrom: Source } & Omit<EncodeInput, "samples" | "metadataFrom">) {
    const n = a.width * a.height * 3;
    let samples: Uint8Array | Uint16Array | Float32Array;
    if (a.kind === "rgb32f") samples = heap.f32(a.ptr, n).slice();
    else if (a.kind === "rgb16") samples = heap.u16(a.ptr, n).slice();
    else { const rgba = heap.u8(a.ptr, a.width * a.height * 4); samples = new Uint8Array(n); for (let i = 0, o = 0; o < n; i += 4) { samples[o++] = rgba[i]!; samples[o++] = rgba[i + 1]!; samples[o++] = rgba[i + 2]!; } }
    const { metadataFrom, ...rest } = a;
    return finished(await codec.encode({ ...rest, samples, metadataFrom: { bytes: await read(metadataFrom), name: metadataFrom.name } }));
  },
};

export type Tasks = typeof tasks;
export type TaskName = keyof Tasks;
export type TaskArgs<K extends TaskName> = Parameters<Tasks[K]>[1];
export type TaskResult<K extends TaskName> = Awaited<ReturnType<Tasks[K]>>;
