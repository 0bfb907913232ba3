import type { Heap } from "../../kernels/heap";
import { logPyramid, type LogPyramid, type ReducedFrame } from "../align/logPyramid";
import { TEMPLATE_BYTES, templateOf } from "../align/template";
import { registerPair, type Registration } from "../align/registerPair";
import type { AlignedFrame } from "../align/alignStack";
import { IDENTITY, invert, longestMove, multiply, rescale } from "../raster/matrix3";
import { focusOrder, isOrdered, travelFaults } from "./focusOrder";
import { cellLight } from "./cellLight";
import { DISPLACED_BYTES, displacedEdges, type DisplacedEdges } from "./displacedEdges";
import { movedParts, type MovedPart } from "./movedParts";
import { meanSquare, runFalloff } from "./runFalloff";
import { refineInLight, REFINING_BYTES } from "./refineInLight";
import { runSharpness, sharpMap, type RunSharpness, type SharpMap } from "./sharpMap";

export interface AlignedRun { frames: AlignedFrame[]; reference: number; /** places from one end of the focus travel to the other */ order: number[]; /** places in it after which a step was too wide */ gaps: number[]; /** frames that show the same focus twice */ twice: [number, number][]; /** what moved while it was taken */ moved: MovedPart[]; /** edges that lie elsewhere in one of two neighbours along the travel */ displaced: DisplacedEdges[]; warnings: { code: string; message: string }[]; sharp: RunSharpness }

/** Residual in EV above which neighbours do not fit each other. */
const MISFIT_EV = 0.45;

/**
 * Aligns the frames of a focus run to its middle frame. Neighbours along the focus travel are sharp at nearly the same
 * places and differ least in size, so each is registered to the next, first by the logarithms of light, then by light itself, and
 * the ways are joined; breathing is the growth in them. The travel's order is taken from the files or the pixels where the given one does not follow it.
 *
 * @param distances  at which the frames were focused, as far as the files tell, metres
 * @param forced  places of frames that are used even if they are shaken or show what another one does
 * @param scale   full-size px a px of the reduced frames
 */
export function alignRun(heap: Heap, frames: readonly ReducedFrame[], motion: "none" | "shift" | "similarity" | "homography" | "auto", scale: number, forced: readonly number[] = [], distances: readonly (number | undefined)[] = []): AlignedRun {
  // however many frames there are, the log radiance of two of them is held at a time
  const through = <T>(places: readonly number[], work: (...pyramids: LogPyramid[]) => T): T => { const mark = heap.mark(), done = work(...places.map((i) => logPyramid(heap, frames[i]!, 0))); heap.release(mark); return done; };
  // blur moves light about but loses none: the mean of the whole tells flicker best
  const looks = frames.map((_, i) => through([i], (p) => ({ map: sharpMap(heap, p!), light: meanLight(heap, p!), cells: cellLight(heap, p!) }))), light = looks.map((l) => l.light);
  const { order, from, blurred } = focusOrder(looks.map((l) => l.map), distances), { width: w, height: h } = frames[0]!;
  const model = motion === "auto" ? "similarity" : motion, middle = order.length >> 1, reference = order[middle]!;
  const out: AlignedFrame[] = frames.map(() => ({ fromReference: [...IDENTITY], ev: 0, gainEv: 0, residualPx: 0, movedPx: 0, used: true })), warnings: AlignedRun["warnings"] = [], displaced: DisplacedEdges[] = [];
  const leave = (i: number, why: string): void => { const used = forced.includes(i); Object.assign(out[i]!, { used, warning: `${why}; it was ${used ? "used because you asked for it" : "left out"}` }); };
  for (const direction of [1, -1]) {
    let way: number[] = [...IDENTITY], lost = false;
    for (let k = middle + direction; k >= 0 && k < order.length; k += direction) {
      const before = order[k - direction]!, i = order[k]!, { r, apart } = through([before, i], (from, to) => { const r = refineInLight(heap, from!, to!, model, registerPair(heap, templateOf(heap, from!), to!, model), [light[before]!, light[i]!]); return { r, apart: displacedEdges(heap, [from!, to!], r.offset, r.transform, invert(way), [before, i], scale) }; });
      const misfit = r.residualEv > MISFIT_EV;
      lost ||= misfit;
      if (!misfit) displaced.push(...apart);
      way = multiply(misfit ? IDENTITY : r.transform, way);
      const gain = Math.log2(light[reference]! / light[i]!), moved = longestMove(way, w, h) * scale;
      out[i] = { fromReference: moved < 0.15 ? [...IDENTITY] : rescale(way.map((v) => v / way[8]!), scale), ev: 0, gainEv: Math.abs(gain) < 0.015 ? 0 : gain, residualPx: precisionOf(r) * scale, movedPx: moved < 0.15 ? 0 : moved, used: true };
      if (misfit) leave(i, "does not fit its neighbours");
    }
    if (lost) warnings.push({ code: "not-aligned", message: "A frame does not fit its neighbours along the focus travel" });
  }
  for (const i of blurred) if (i !== reference && out[i]!.used) leave(i, "is nowhere sharper than the others");
  if (!isOrdered(order)) warnings.push({ code: "order-found", message: `The frames do not follow the focus travel in their given order; it was ${from === "distances" ? "taken from the focus distances in the files" : "found from the pixels"}` });
  // once they lie on each other they tell more
  const laid = out.map(({ fromReference }, i) => through([i], (p) => sharpMap(heap, p!, invert(rescale(fromReference, 1 / scale))))), { gaps, twice } = travelFaults(laid, order);
  // of two that show the same focus the sharper one stays, or the middle one, on which all others lie
  for (const pair of twice) {
    const [less, more] = [...pair].sort((a, b) => sharpnessOf(laid[a]!, a === reference) - sharpnessOf(laid[b]!, b === reference)) as [number, number];
    if (out[less]!.used && out[more]!.used) leave(less, "shows the same focus as the frame next to it");
  }
  const placed = (i: number): number[] => rescale(out[i]!.fromReference, 1 / scale), corners = runFalloff(order.map((i) => looks[i]!.cells), order.map(placed), middle, { width: w, height: h });
  for (const [k, i] of order.entries()) if (corners[k]) { out[i]!.cornerEv = corners[k]; out[i]!.gainEv! -= corners[k]! * meanSquare(looks[i]!.cells); }
  const along = order.filter((i) => out[i]!.used), moved = movedParts(along.map((i) => looks[i]!.cells), along.map(placed), along.map((i) => light[i]!), scale);
  return { frames: out, reference, order, gaps, twice, moved, displaced: displaced.filter(({ frames }) => frames.every((i) => out[i]!.used)), warnings, sharp: runSharpness(laid) };
}
const sharpnessOf = ({ values }: SharpMap, wanted: boolean): number => (wanted ? Infinity : values.reduce((s, v) => s + v, 0));

/** Mean light over the middle of a frame. */
function meanLight(heap: Heap, { levels }: LogPyramid): number {
  const { w, h, log } = levels[Math.min(2, levels.length - 1)]!, L = heap.f32(log, w * h);
  let sum = 0, n = 0;
  for (let y = Math.floor(h * 0.06); y < h * 0.94; y++) for (let x = Math.floor(w * 0.06); x < w * 0.94; x++, n++) sum += 2 ** L[y * w + x]!;
  return sum / n;
}

/** A rough standard deviation of the shift, px of the reduced frame. */
const precisionOf = (r: Registration): number => Math.min(9, 0.02 + r.residualEv * 0.5);

export const runScratch = (px: number): number => 2 * px * 8 * 1.4 + px * (48 + DISPLACED_BYTES + REFINING_BYTES) + 2 * TEMPLATE_BYTES + (1 << 23);
