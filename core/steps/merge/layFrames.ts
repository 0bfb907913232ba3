import type { AlignedFrame } from "../../align/alignStack";
import { foldScratch, type Accumulator } from "../../bracket/foldFrame";
import { encodedTables, isPlainSrgb } from "../../bracket/layEncoded";
import type { LaidFrame } from "../../bracket/mertens";
import { coveredRectangle } from "../../raster/coveredRectangle";
import { IDENTITY, rescale } from "../../raster/matrix3";
import { decodeInto } from "../readFrames";
import { rowsOf, type HeldSamples, type RunOptions, type StackFrame, type Work } from "../work";
import { fold } from "./mergeFrames";

interface Input { frames: readonly StackFrame[]; aligned: readonly AlignedFrame[]; reference: number; shrink: number; held?: HeldSamples[] | undefined; /** where each frame is gathered before it is laid down */ acc: Accumulator; take(bytes: number): number; on: RunOptions }
export interface Layer { /** the frame as an sRGB picture in the reference's place; meanwhile the next one is read. Give its memory back */ lay(i: number, next: number | undefined): Promise<LaidFrame>; /** gives back what was read ahead for nothing */ drop(): void }

/** Lays frames, one by one, in the reference frame's place as pictures of 16 bit. */
export function layFrames(work: Work, { frames, aligned, reference, shrink, held, acc, take, on }: Input): Layer {
  const ahead = new Map<number, Promise<HeldSamples>>(), { width, height } = acc, strips = rowsOf(height, work.threads * 4);
  const load = (i: number | undefined): void => {
    if (i === undefined || held || ahead.has(i)) return;
    const p = decodeInto(work, frames[i]!, shrink, on.signal);
    p.catch(() => undefined);
    ahead.set(i, p);
  };
  return {
    async lay(i, next) {
      load(i);
      const own = held?.[i] ?? (await ahead.get(i)!), a = aligned[i]!, ptr = take(width * height * 6 + 64);
      ahead.delete(i);
      load(next);
      try {
        if (isPlainSrgb(own.matrix, own.type)) {
          const { ptr: samples, type, width: w, height: h } = own, input = { samples, type, width: w, height: h, lut: encodedTables(own.lut, 2 ** (a.gainEv ?? 0)), fromReference: i === reference ? [...IDENTITY] : rescale(a.fromReference, 1 / shrink) };
          await Promise.all(strips.map(([y0, y1]) => work.run("layEncoded", { input, width, height, dst: ptr, y0, y1 }, { scratch: foldScratch(width, type), ...on })));
          return { ptr, width, height, covered: coveredRectangle(rescale(a.fromReference, 1 / shrink), width, height) };
        }
        // by way of light where the primaries are others
        const still = i === reference;
        if (!still) await Promise.all(rowsOf(acc.planeBytes * 4, work.threads).map(([from, to]) => work.run("clear", { ptr: acc.ptr + from, bytes: to - from }, on)));
        await fold(work, acc, own, { fromReference: still ? [...IDENTITY] : a.fromReference, ev: 0 }, shrink, still, on);
        await Promise.all(strips.map(([y0, y1]) => work.run("layDown", { acc, matrix: own.matrix, gain: 2 ** (a.gainEv ?? 0), dst: ptr, y0, y1 }, { scratch: width * 64 + (1 << 18), ...on })));
      } finally { if (!held) work.give(own.ptr); }
      return { ptr, width, height, covered: coveredRectangle(rescale(a.fromReference, 1 / shrink), width, height) };
    },
    drop() { for (const p of ahead.values()) void p.then((h) => work.give(h.ptr), () => undefined); },
  };
}
