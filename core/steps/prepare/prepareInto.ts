import { lensScratch } from "../../frame/lensWarp";
import { hasLens, type Preparation } from "../../frame/preparation";
import { noiseScratch } from "../../frame/reduceNoise";
import { rootsTable } from "../../frame/roots";
import { rowsOf, type HeldSamples, type Work } from "../work";

/**
 * A frame prepared, in place of the one that was read: dust healed, noise smoothed, the lens's faults undone. It is held as
 * square roots of light in 16 bit from then on.
 */
export async function prepareInto(work: Work, held: HeldSamples, preparation: Preparation, shrink: number, signal?: AbortSignal): Promise<HeldSamples> {
  const { width, height } = held, bytes = width * height * 6 + 64, on = signal ? { signal } : {}, taken = new Set([held.ptr]), take = (): number => { const at = work.take(bytes); taken.add(at); return at; }, give = (at: number): void => { taken.delete(at); work.give(at); };
  try {
    let at = take();
    await Promise.all(rowsOf(height, work.threads).map(([y0, y1]) => work.run("toRoots", { held, to: at, y0, y1 }, { scratch: 65536 * 12 + (1 << 14), ...on })));
    give(held.ptr);
    const next = async (run: (from: number, to: number) => Promise<unknown>): Promise<void> => { const to = take(); await run(at, to); give(at); at = to; };
    if (preparation.dust.length) await work.run("healSpots", { at, width, height, spots: preparation.dust }, on);
    if (preparation.noise > 0) await next((from, to) => Promise.all(rowsOf(height, Math.max(work.threads, Math.ceil((width * height) / 2e6))).map(([y0, y1]) => work.run("reduceNoise", { from, to, width, height, strength: preparation.noise, shrink, y0, y1 }, { scratch: noiseScratch(width, y1 - y0), ...on }))));
    if (hasLens(preparation)) await next((from, to) => Promise.all(rowsOf(height, work.threads * 2).map(([y0, y1]) => work.run("lensWarp", { lens: preparation, from, to, width, height, y0, y1 }, { scratch: lensScratch(width), ...on }))));
    return { ptr: at, width, height, type: "u16", lut: rootsTable(), matrix: held.matrix };
  } catch (e) {
    await work.idle();
    for (const at of taken) work.give(at);
    throw e;
  }
}
