import * as v from "valibot";
import type { MergeFindings } from "../core/steps/merge/step";
import { basisBytes } from "../core/tone/toneBasis";
import type { Heap } from "../kernels/heap";

/** A scene in memory as it is kept: its three planes, and from `analysis` on the tone grid and basis. */
export interface SceneParts { ptr: number; planeBytes: number; width: number; height: number; grid: { width: number; height: number }; analysis: number }

/** A kept scene as bytes: length of the head, the head as JSON, the alignment's ghost votes, then planes R, G, B, tone grid and basis. */
const HeadSchema = v.object({
  width: v.number(), height: v.number(), planeBytes: v.number(), grid: v.object({ width: v.number(), height: v.number() }),
  statistics: v.object({ fromEv: v.number(), binEv: v.number(), counts: v.array(v.number()), rangeEv: v.number(), lowEv: v.number(), highEv: v.number() }),
  clippedBright: v.number(), clippedDark: v.number(), reference: v.number(),
  frames: v.array(v.object({
    fromReference: v.array(v.number()), ev: v.number(), residualPx: v.number(), used: v.boolean(), movedPx: v.number(), warning: v.optional(v.string()),
    ghosts: v.optional(v.object({ width: v.number(), height: v.number(), scale: v.number(), share: v.number() })),
  })),
});
type Head = v.InferOutput<typeof HeadSchema>;

const pixelParts = (p: Omit<SceneParts, "ptr" | "analysis">): { planes: number; analysis: number } => {
  const n = p.grid.width * p.grid.height * 4;
  return { planes: p.planeBytes * 3, analysis: n + basisBytes(p.grid) };
};

export function packScene(heap: Heap, scene: SceneParts, findings: MergeFindings): Uint8Array {
  const { aligned, ...rest } = findings, votes = aligned.frames.flatMap((f) => (f.ghosts ? [f.ghosts.votes] : []));
  const head: Head = {
    ...rest, width: scene.width, height: scene.height, planeBytes: scene.planeBytes, grid: { width: scene.grid.width, height: scene.grid.height }, reference: aligned.reference,
    frames: aligned.frames.map(({ ghosts, ...f }) => ({ ...f, ...(ghosts ? { ghosts: { width: ghosts.width, height: ghosts.height, scale: ghosts.scale, share: ghosts.share } } : {}) })),
  };
  const text = new TextEncoder().encode(JSON.stringify(head)), size = pixelParts(scene);
  const out = new Uint8Array(4 + text.length + votes.reduce((s, a) => s + a.length, 0) + size.planes + size.analysis);
  new DataView(out.buffer).setUint32(0, text.length, true);
  let at = 4;
  for (const part of [text, ...votes, heap.u8(scene.ptr, size.planes), heap.u8(scene.analysis, size.analysis)]) { out.set(part, at); at += part.length; }
  return out;
}

/** Reads what packScene wrote, or nothing when it is damaged or from another version. */
export function readPacked(bytes: Uint8Array): { head: Omit<SceneParts, "ptr" | "analysis">; findings: MergeFindings; planes: Uint8Array; analysis: Uint8Array } | undefined {
  try {
    const length = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(0, true);
    const { frames, reference, statistics, clippedBright, clippedDark, ...head } = v.parse(HeadSchema, JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + length))));
    let at = 4 + length;
    const next = (n: number): Uint8Array => { const part = bytes.subarray(at, at + n); if (part.length !== n) throw new RangeError("cut short"); at += n; return part; };
    const all = frames.map(({ ghosts, warning, ...f }) => ({ ...f, ...(warning ? { warning } : {}), ...(ghosts ? { ghosts: { ...ghosts, votes: next(ghosts.width * ghosts.height).slice() } } : {}) }));
    const size = pixelParts(head);
    return { head, findings: { aligned: { frames: all, reference }, statistics, clippedBright, clippedDark }, planes: next(size.planes), analysis: next(size.analysis) };
  } catch {
    return undefined;
  }
}
