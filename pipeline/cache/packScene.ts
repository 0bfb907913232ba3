import { StraighteningSchema } from "../straighten/straightening";
import * as v from "valibot";
import type { GhostMap } from "../../core/align/alignedFrame";
import { SuspectSchema } from "../../core/suspects/suspect";
import type { MergeFindings } from "../merge/input";
import { basisBytes } from "../../core/tone/toneBasis";
import type { Heap } from "../../kernels/heap";

/**
 * A scene in memory as it is kept: three planes and the weights, from `analysis` on the tone grid
 * and basis, and the source map if there is one.
 */
export interface SceneParts {
  ptr: number;
  planeBytes: number;
  width: number;
  height: number;
  grid: { width: number; height: number };
  analysis: number;
  sources?: number | undefined;
}

/**
 * A kept scene as bytes: length of the head, the head as JSON, the alignment's maps, a focus run's
 * depth, then planes R, G, B, weight, tone grid and basis, source map.
 */
const MapHead = v.optional(
  v.object({ width: v.number(), height: v.number(), scale: v.number(), share: v.number() }),
);
/** The spread of a scene's light, as it is kept. */
export const StatisticsSchema = v.object({
  fromEv: v.number(),
  binEv: v.number(),
  counts: v.array(v.number()),
  rangeEv: v.number(),
  lowEv: v.number(),
  highEv: v.number(),
  floorEv: v.number(),
});
const HeadSchema = v.object({
  width: v.number(),
  height: v.number(),
  planeBytes: v.number(),
  grid: v.object({ width: v.number(), height: v.number() }),
  mapped: v.boolean(),
  statistics: StatisticsSchema,
  clippedBright: v.number(),
  clippedDark: v.number(),
  suspects: v.array(SuspectSchema),
  shares: v.array(v.number()),
  sharp: v.optional(v.number()),
  depth: v.optional(v.object({ width: v.number(), height: v.number() })),
  aligned: v.object({
    reference: v.number(),
    response: v.optional(v.array(v.number())),
    order: v.optional(v.array(v.number())),
    gaps: v.optional(v.array(v.number())),
    twice: v.optional(v.array(v.tuple([v.number(), v.number()]))),
    moved: v.optional(
      v.array(
        v.object({
          x: v.number(),
          y: v.number(),
          width: v.number(),
          height: v.number(),
          times: v.number(),
        }),
      ),
    ),
    displaced: v.optional(
      v.array(
        v.object({
          x: v.number(),
          y: v.number(),
          width: v.number(),
          height: v.number(),
          frames: v.tuple([v.number(), v.number()]),
          px: v.number(),
        }),
      ),
    ),
    sharp: v.optional(
      v.object({
        cells: v.array(v.number()),
        top: v.array(v.number()),
        shares: v.array(v.number()),
      }),
    ),
    warnings: v.optional(v.array(v.object({ code: v.string(), message: v.string() }))),
    straightening: v.optional(StraighteningSchema),
  }),
  frames: v.array(
    v.object({
      fromReference: v.array(v.number()),
      ev: v.number(),
      residualPx: v.optional(v.number()),
      used: v.boolean(),
      movedPx: v.number(),
      warning: v.optional(v.string()),
      gainEv: v.optional(v.number()),
      cornerEv: v.optional(v.number()),
      ghosts: MapHead,
      differs: MapHead,
    }),
  ),
});
type Head = v.InferOutput<typeof HeadSchema>;

type Shape = Omit<SceneParts, "ptr" | "analysis" | "sources">;
const pixelParts = (
  p: Shape,
  mapped: boolean,
): { planes: number; analysis: number; sources: number } => {
  const n = p.grid.width * p.grid.height * 4;
  return {
    planes: p.planeBytes * 4,
    analysis: n + basisBytes(p.grid),
    sources: mapped ? p.width * p.height : 0,
  };
};

/** A merged scene as bytes to be kept, its light as 16-bit floats. */
export function packScene(
  heap: Heap,
  scene: SceneParts,
  findings: MergeFindings,
): Uint8Array<ArrayBuffer> {
  const {
    aligned: { frames, ...run },
    depth,
    ...rest
  } = findings;
  const maps = [
    ...frames.flatMap((f) => [f.ghosts, f.differs].flatMap((m) => (m ? [m.confidences] : []))),
    ...(depth
      ? [depth.places, depth.known].map((p) => new Uint8Array(p.buffer, p.byteOffset, p.byteLength))
      : []),
  ];
  const headOf = (m: GhostMap | undefined) =>
    m && { width: m.width, height: m.height, scale: m.scale, share: m.share };
  const head: Head = {
    ...rest,
    width: scene.width,
    height: scene.height,
    planeBytes: scene.planeBytes,
    grid: { width: scene.grid.width, height: scene.grid.height },
    mapped: scene.sources !== undefined,
    aligned: run,
    ...(depth ? { depth: { width: depth.width, height: depth.height } } : {}),
    frames: frames.map(({ ghosts, differs, ...f }) => ({
      ...f,
      ghosts: headOf(ghosts),
      differs: headOf(differs),
    })),
  };
  const text = new TextEncoder().encode(JSON.stringify(head));
  const size = pixelParts(scene, head.mapped);
  const out = new Uint8Array(
    4 +
      text.length +
      maps.reduce((s, a) => s + a.length, 0) +
      size.planes +
      size.analysis +
      size.sources,
  );
  new DataView(out.buffer).setUint32(0, text.length, true);
  let at = 4;
  for (const part of [
    text,
    ...maps,
    heap.u8(scene.ptr, size.planes),
    heap.u8(scene.analysis, size.analysis),
    heap.u8(scene.sources ?? 0, size.sources),
  ]) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

/** Reads what packScene wrote, or nothing when it is damaged or from another version. */
export function readPacked(bytes: Uint8Array):
  | {
      head: Shape & { mapped: boolean };
      findings: MergeFindings;
      planes: Uint8Array;
      analysis: Uint8Array;
      sources: Uint8Array;
    }
  | undefined {
  try {
    const length = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(
      0,
      true,
    );
    const {
      frames,
      aligned,
      statistics,
      clippedBright,
      clippedDark,
      suspects,
      shares,
      sharp,
      depth,
      ...head
    } = v.parse(HeadSchema, JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + length))));
    let at = 4 + length;
    const next = (n: number): Uint8Array => {
      const part = bytes.subarray(at, at + n);
      if (part.length !== n) throw new RangeError("cut short");
      at += n;
      return part;
    };
    const mapOf = (m: v.InferOutput<typeof MapHead>): GhostMap | undefined =>
      m && { ...m, confidences: next(m.width * m.height).slice() };
    const all = frames.map(({ ghosts, differs, warning, gainEv, cornerEv, ...f }) => {
      const moved = mapOf(ghosts);
      const other = mapOf(differs);
      return {
        ...f,
        ...(gainEv === undefined ? {} : { gainEv }),
        ...(cornerEv === undefined ? {} : { cornerEv }),
        ...(warning ? { warning } : {}),
        ...(moved ? { ghosts: moved } : {}),
        ...(other ? { differs: other } : {}),
      };
    });
    const cells = (g: { width: number; height: number }): Float32Array =>
      new Float32Array(next(g.width * g.height * 4).slice().buffer);
    const grid = depth && { ...depth, places: cells(depth), known: cells(depth) };
    const size = pixelParts(head, head.mapped);
    return {
      head,
      findings: {
        aligned: { frames: all, ...aligned } as MergeFindings["aligned"],
        statistics,
        clippedBright,
        clippedDark,
        suspects,
        shares,
        ...(sharp === undefined ? {} : { sharp }),
        ...(grid ? { depth: grid } : {}),
      },
      planes: next(size.planes),
      analysis: next(size.analysis),
      sources: next(size.sources),
    };
  } catch {
    return undefined;
  }
}
