import { planeBytesOf, type Accumulator } from "../../bracket/foldFrame";
import { LEVELS, MARGIN, pieceOf, pieceScratch, stripeShape, warpScratch, type Stripe } from "../../panorama/blend";
import type { Camera } from "../../panorama/camera";
import { patchworkAt, patchworkScratch } from "../../panorama/fillUncovered";
import { shrunk, type Canvas } from "../../panorama/projection";
import { pyramidShape } from "../../raster/pyramid";
import { BASIS_PARTS } from "../../tone/toneBasis";
import { toneAnalysis } from "../merge/mergeFrames";
import { bandsBy, widened, type Band } from "../merge/band";
import type { Scene } from "../merge/scene";
import { decodeInto } from "../readFrames";
import { Holding } from "../holding";
import { rowsOf, type HeldSamples, type StackFrame, type Watch, type Work } from "../work";
import type { Placing } from "./placing";

/** Pixels of a stripe that are blended at once: their sums and a frame's part take about 50 bytes each. */
const STRIPE_PX = 5e6;
/** Frames kept decoded while neighbouring stripes may ask for them again, bytes. */
const KEPT = 200e6;

/** A picture up to this many pixels is joined whole, a larger one in bands of about a third of it, so that it need not fit in memory. */
export const WHOLE_PX = 64e6;
const BAND_PX = 20e6;

/** The bands of a canvas: they follow from its size alone, so that its bytes do not depend on the memory there is. */
export function bandsOf({ width, height }: Pick<Canvas, "width" | "height">): Band[] {
  if (width * height <= WHOLE_PX) return [{ y0: 0, y1: height }];
  const unit = 2 ** LEVELS, rows = Math.max(MARGIN, Math.floor(BAND_PX / width / unit) * unit);
  return bandsBy(height, rows);
}

export interface PanoramaInput { frames: readonly StackFrame[]; placing: Placing; canvas: Canvas; shrink: number; held?: HeldSamples[] }

/** The whole panorama at 1/shrink of its size, with what toning needs. @param fill  what no frame covers, too */
export async function renderPanorama(work: Work, { fill, ...input }: PanoramaInput & { fill: boolean }, watch: Watch): Promise<Scene> {
  const on = watch.signal ? { signal: watch.signal } : {}, acc = await joinFrames(work, input, { y0: 0, y1: shrunk(input.canvas, input.shrink).height }, watch);
  try {
    if (fill) await fillUncovered(work, acc, on);
    return { ...acc, ...(await toneAnalysis(work, acc, BASIS_PARTS, on)) };
  } catch (e) {
    await work.idle();
    work.give(acc.ptr);
    throw e;
  }
}

/**
 * Joins the placed frames at 1/shrink of their size in a band of the canvas, stripe by stripe across it: a stripe's memory
 * does not depend on the number of frames, and a frame is read once for as long as its neighbours need it.
 *
 * @returns the band's rows as light, and what is covered (0 where nothing is)
 * @see Burt and Adelson, "A multiresolution spline with application to image mosaics", TOG 1983
 */
export async function joinFrames(work: Work, { frames, placing, canvas: full, shrink, held }: PanoramaInput, band: Band, { progress, signal }: Watch): Promise<Accumulator> {
  const on = signal ? { signal } : {}, canvas = shrunk(full, shrink), { width } = canvas, height = band.y1 - band.y0, planeBytes = planeBytesOf(width, height), { labels, light } = placing;
  const holding = new Holding(work), { take, give } = holding;
  const acc: Accumulator = { ptr: take(planeBytes * 4 + 64), planeBytes, width, height }, map = take(labels.of.length), { y0: top, y1: bottom } = widened(band, MARGIN, canvas.height);
  const scaled = (c: Camera): Camera => ({ ...c, focalPx: c.focalPx / shrink, width: c.width / shrink, height: c.height / shrink, ...(c.circle === undefined ? {} : { circle: c.circle / shrink }) });
  const kept = new Map<number, Promise<HeldSamples>>(), sizes = new Map<number, number>();
  const read = async (i: number): Promise<HeldSamples> => {
    if (held) return held[i]!;
    const found = kept.get(i);
    if (found) { kept.delete(i); kept.set(i, found); return found; }
    const asking = decodeInto(work, frames[i]!, shrink, signal);
    asking.catch(() => undefined);
    kept.set(i, asking);
    const h = await asking;
    sizes.set(i, h.width * h.height * 3 * (h.type === "u8" ? 1 : h.type === "u16" ? 2 : 4));
    for (const [k, p] of kept) {
      // the one that is laid down and the one that is read meanwhile stay
      if (k === i || kept.size <= 2 || [...kept.keys()].reduce((s, q) => s + (sizes.get(q) ?? 0), 0) <= KEPT) break;
      kept.delete(k);
      work.give((await p).ptr);
    }
    return h;
  };
  try {
    await work.run("put", { ptr: map, bytes: labels.of }, on);
    const unit = 2 ** LEVELS, across = Math.max(unit, Math.floor(STRIPE_PX / (bottom - top) / unit) * unit), starts = Array.from({ length: Math.ceil(width / across) }, (_, i) => i * across);
    let done = 0, matrix: number[] = [];
    const stripes = starts.map((x0) => {
      const x1 = Math.min(width, x0 + across), left = canvas.closed || x0 > 0 ? x0 - MARGIN : 0, right = canvas.closed || x1 < width ? x1 + MARGIN : x1, bounds = { x: left, y: top, width: right - left, height: bottom - top };
      return { x0, x1, right, bounds, parts: placing.cameras.flatMap((c, place) => { const camera = c && scaled(c), piece = camera && pieceOf(camera, canvas, bounds, labels, place); return camera && piece && piece.width > 0 && piece.height > 0 ? [{ place, camera, piece }] : []; }) };
    });
    const asked = stripes.flatMap(({ parts }) => parts.map(({ place }) => place));
    let at = 0;
    for (const { x0, x1, right, bounds, parts } of stripes) {
      const shape = stripeShape(bounds), sums = [0, 1, 2, 3].map(() => take(shape.bytes)) as Stripe["sums"], stripe: Stripe = { ...bounds, sums };
      for (const s of sums) await Promise.all(rowsOf(shape.bytes, work.threads).map(([a, b]) => work.run("clear", { ptr: s + a, bytes: b - a }, on)));
      for (const { place, camera, piece } of parts) {
        const frame = await read(place), own = pyramidShape(piece.width, piece.height, LEVELS), next = asked[++at];
        // read while this one is laid down
        if (next !== undefined && next !== place) read(next).catch(() => undefined);
        matrix = matrix.length ? matrix : frame.matrix;
        const apart = planeBytesOf(piece.width, piece.height), whole = take(apart * 4), planes = [0, 1, 2, 3].map((c) => whole + c * apart), mask = take(own.bytes);
        const input = { frame, camera: { ...camera, width: frame.width, height: frame.height }, canvas, light, place, stripe: bounds, piece, planes, labels: { ptr: map, width: labels.width, height: labels.height } };
        await Promise.all(rowsOf(piece.height, work.threads * 3).map(([y0, y1]) => work.run("warpPiece", { input, y0, y1 }, { scratch: warpScratch(frame.type), ...on })));
        await work.run("maskPyramid", { piece, plane: planes[3]!, to: mask, bytes: own.bytes }, { scratch: pieceScratch(piece), ...on });
        await Promise.all([0, 1, 2, 3].map((c) => work.run("addPiece", { piece, plane: planes[c]!, ...(c < 3 ? { mask } : {}), stripe, sum: sums[c]!, bytes: shape.bytes }, { scratch: pieceScratch(piece), ...on })));
        give(whole);
        give(mask);
        progress((done + 1 / (parts.length + 1)) / starts.length, `Joining frames, part ${done + 1} of ${starts.length}`);
      }
      // the weights are divided by, and so come last
      await Promise.all([0, 1, 2].map((channel) => work.run("finishChannel", { stripe, channel, acc, top: band.y0, x0, x1 }, { scratch: right * 8 + (1 << 14), ...on })));
      await work.run("finishChannel", { stripe, channel: 3, acc, top: band.y0, x0, x1 }, { scratch: 1 << 14, ...on });
      for (const s of sums) give(s);
      progress(++done / starts.length, `Joining frames, part ${done} of ${starts.length}`);
    }
    if (matrix.length) await Promise.all(rowsOf(height, work.threads * 2).map(([y0, y1]) => work.run("finalise", { acc, matrix, y0, y1 }, on)));
    give(map);
    return acc;
  } catch (e) {
    await holding.drop();
    throw e;
  } finally {
    await work.idle();
    for (const p of kept.values()) void p.then((h) => work.give(h.ptr), () => undefined);
  }
}

/** Fills what no frame covers after the likes of what they do. */
async function fillUncovered(work: Work, acc: Accumulator, on: { signal?: AbortSignal }): Promise<void> {
  const at = work.take(patchworkAt(0, acc).bytes), held = patchworkAt(at, acc);
  try {
    await work.run("makePatchwork", { acc, held }, { scratch: patchworkScratch(held), ...on });
    await Promise.all(rowsOf(acc.height, work.threads * 4).map(([y0, y1]) => work.run("fillRows", { acc, held, y0, y1 }, on)));
  } finally {
    await work.idle();
    work.give(at);
  }
}
