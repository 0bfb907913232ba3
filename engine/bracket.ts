import type { AlignedFrame } from "../core/align/alignStack";
import type { Accumulator } from "../core/bracket/foldFrame";
import { whiteBalanceGains } from "../core/colour/whiteBalance";
import { RhizomeError } from "../core/error";
import { exposureEv, type FrameInfo } from "../core/frame/frame";
import { invert } from "../core/raster/matrix3";
import type { Recipe } from "../core/recipe/recipe";
import { toneFieldBytes, type ToneField } from "../core/tone/localTone";
import { basisScratch } from "../core/tone/toneBasis";
import type { ToneGrid } from "../core/tone/toneGrid";
import type { RenderSettings } from "../core/tone/renderStrip";
import type { Pool } from "./pool";
import type { HeldSamples, Source } from "./worker/tasks";

export interface BracketFrame { id: string; source: Source; info: FrameInfo }
/** Called with the step, the share done of all work (0..1), and what is being done. */
export type Progress = (share: number, doing: string) => void;
export interface Aligned { frames: AlignedFrame[]; reference: number; scale: number }
/** Merged radiance in the workers' memory; `release` gives the memory back. */
export interface Scene extends Accumulator { grid: ToneGrid; /** address of the tone basis */ basis: number; release(): void }

/** Rows cut into about `parts` strips of whole sixteens. */
export const rowsOf = (height: number, parts: number): [number, number][] => {
  const step = Math.max(16, Math.ceil(height / parts / 16) * 16);
  return Array.from({ length: Math.ceil(height / step) }, (_, i) => [i * step, Math.min(height, (i + 1) * step)]);
};

/** The power of two by which a frame is reduced so that it is at most `longEdge` px long; 8 at most. */
export function shrinkTo(info: FrameInfo, longEdge: number): number {
  let s = 1;
  while (s < 8 && Math.max(info.width, info.height) / s > longEdge) s *= 2;
  return s;
}
/** Long edge of the frames as they are aligned, and of the picture that is shown while one works on it. */
export const WORK_EDGE = 1600;

/** The frame others are aligned to: the one asked for, else the middle exposure. */
export function referenceOf(frames: readonly BracketFrame[], recipe: Recipe): number {
  const asked = recipe.merge.reference;
  if (asked !== "auto") {
    if (asked >= frames.length) throw new RhizomeError("reference-unknown", `There is no frame ${asked}; the stack has ${frames.length}.`, `give a number from 0 to ${frames.length - 1}, or auto`);
    return asked;
  }
  const order = frames.map((f, i) => ({ i, ev: exposureEv(f.info.exif) ?? i })).sort((a, b) => a.ev - b.ev || a.i - b.i);
  return order[order.length >> 1]!.i;
}

function checkSizes(frames: readonly BracketFrame[], reference: number): void {
  const r = frames[reference]!.info;
  for (const f of frames) if (f.info.width !== r.width || f.info.height !== r.height) {
    throw new RhizomeError("size-mismatch", `${f.info.name} is ${f.info.width} x ${f.info.height} px, ${r.name} is ${r.width} x ${r.height}.`, "leave that frame out, or put it into a stack of its own");
  }
}

/** Bytes that a sample takes once it is decoded: half floats become floats, and a table profile is turned to 16 bit. */
const decodedBytes = ({ format, depth, profile }: FrameInfo): number => (depth === 32 || format === "exr" ? 4 : depth === 16 || profile === "embedded profile" ? 2 : 1);

export async function decodeInto(pool: Pool, frame: BracketFrame, shrink: number, signal?: AbortSignal): Promise<HeldSamples> {
  const { width, height } = frame.info;
  // the decoder rounds a reduced size up
  const bytes = Math.ceil(width / shrink + 1) * Math.ceil(height / shrink + 1) * 3 * decodedBytes(frame.info);
  const ptr = pool.take(bytes);
  try {
    return { ptr, ...(await pool.run("decode", { source: frame.source, shrink, dst: ptr, bytes }, { ...(signal ? { signal } : {}) })) };
  } catch (e) {
    if (!signal?.aborted) pool.give(ptr);
    else void pool.idle().then(() => pool.give(ptr));
    throw e;
  }
}

export async function decodeReduced(pool: Pool, frames: readonly BracketFrame[], shrink: number, progress: Progress, signal?: AbortSignal): Promise<HeldSamples[]> {
  let done = 0;
  const results = await Promise.allSettled(frames.map(async (f) => {
    const held = await decodeInto(pool, f, shrink, signal);
    progress(++done / frames.length, `Reading frames, ${done} of ${frames.length}`);
    return held;
  }));
  const failed = results.find((r) => r.status === "rejected");
  if (failed) {
    await pool.idle();
    for (const r of results) if (r.status === "fulfilled") pool.give(r.value.ptr);
    throw failed.reason;
  }
  return results.map((r) => (r as PromiseFulfilledResult<HeldSamples>).value);
}

/** Aligns reduced frames; the transforms are for full size and serve every size. */
export async function alignFrames(pool: Pool, frames: readonly BracketFrame[], held: HeldSamples[], recipe: Recipe, shrink: number, signal?: AbortSignal): Promise<Aligned> {
  const reference = referenceOf(frames, recipe);
  checkSizes(frames, reference);
  const n = held[reference]!.width * held[reference]!.height;
  const aligned = await pool.run("align", {
    frames: held, evs: frames.map((f) => exposureEv(f.info.exif)),
    options: { motion: recipe.align.motion, reference, deghost: recipe.merge.deghost === "auto", scale: shrink },
  }, { scratch: n * 8 * 5 + (1 << 23), ...(signal ? { signal } : {}) });
  return { frames: aligned, reference, scale: shrink };
}

export function gainsOf(recipe: Recipe): [number, number, number] { return whiteBalanceGains(recipe.prepare); }

/** A tone field in the workers' memory; `release` gives the memory back. */
export interface HeldField { field: ToneField; release(): void }

export async function toneField(pool: Pool, scene: Scene, recipe: Recipe, signal?: AbortSignal): Promise<HeldField> {
  const { grid } = scene, at = pool.take(toneFieldBytes(grid)), release = (): void => pool.give(at);
  try {
    const field = await pool.run("tone", { grid, basis: scene.basis, settings: recipe.tone, at }, { urgent: true, scratch: basisScratch(grid), ...(signal ? { signal } : {}) });
    return { field, release };
  } catch (e) {
    void pool.idle().then(release);
    throw e;
  }
}

export function renderSettings(recipe: Recipe, space: RenderSettings["space"], linear = false): RenderSettings {
  return { linear, gains: gainsOf(recipe), exposure: recipe.tone.exposure, contrast: recipe.finish.contrast, saturation: recipe.finish.saturation, space };
}

/** Whether the file holds light itself: untoned results, and the formats that are made for it. */
export const isLinear = (recipe: Recipe): boolean => recipe.tone.operator === "none" || ["exr", "hdr"].includes(recipe.deliver.format) || recipe.deliver.space === "linear";

/** Renders the whole scene into memory for a file, in strips over all threads. Returns the address; give it back. */
export async function renderWhole(pool: Pool, scene: Scene, field: ToneField, recipe: Recipe, kind: "rgba8" | "rgb16" | "rgb32f", progress: Progress, signal?: AbortSignal): Promise<number> {
  const bytes = { rgba8: 4, rgb16: 6, rgb32f: 12 }[kind];
  const dst = pool.take(scene.width * scene.height * bytes + 64);
  const strips = rowsOf(scene.height, pool.threads * 8);
  let done = 0;
  const region = { x: 0, y: 0, width: scene.width, height: scene.height };
  try {
    await Promise.all(strips.map(async ([y0, y1]) => {
      await pool.run("render", { scene: plain(scene), field, settings: renderSettings(recipe, recipe.deliver.space, isLinear(recipe)), region, kind, dst, y0, y1 }, { scratch: scene.width * 32 + (1 << 16), ...(signal ? { signal } : {}) });
      progress(++done / strips.length, "Toning");
    }));
    return dst;
  } catch (e) {
    await pool.idle();
    pool.give(dst);
    throw e;
  }
}

/** The accumulator without its functions, as it may be sent to a worker. */
export const plain = ({ ptr, planeBytes, width, height }: Accumulator): Accumulator => ({ ptr, planeBytes, width, height });

/** Frame px to reference px, as reports give it. */
export const toReference = (a: AlignedFrame): number[] => { const m = invert(a.fromReference); return m.map((v) => v / m[8]!); };
