import type { Heap } from "../../kernels/heap";
import type { StepContext } from "../stepContext";
import { logPyramid, type ReducedFrame } from "../../core/align/logPyramid";
import type { Accumulator } from "../../core/raster/accumulator";
import {
  addPiece,
  collapseCoarser,
  coarserOf,
  cutOut,
  finishRows,
  pieceShape,
  reducePiece,
  type Bounds,
  type Piece,
  type Sums,
} from "../../core/panorama/blend/blend";
import { bendCanvas } from "../../core/panorama/canvas/bendCanvas";
import type { Camera, LensKind } from "../../core/panorama/camera";
import { findImageCircle } from "../../core/panorama/layout/imageCircle";
import { findFeatures, type Features } from "../../core/features/features";
import {
  fillRows,
  makePatchwork,
  type AllocatedPatchwork,
} from "../../core/panorama/fill/fillUncovered";
import { findDuplicates, fineDetail } from "../../core/panorama/seams/duplicates";
import { equaliseExposure, rampOf, type Light } from "../../core/panorama/blend/light";
import {
  exposedReader,
  makeSmallFrame,
  colourReader,
  type SmallFrame,
} from "../../core/panorama/seams/smallFrame";
import type { Segment } from "../../core/features/lineSegments";
import { straightEdges } from "../../core/panorama/level/findLevel";
import { matchFeatures } from "../../core/features/matchFeatures";
import { canvasFor, type Canvas, type Wanted } from "../../core/panorama/canvas/projection";
import type { Part } from "../../core/panorama/seams/masks";
import { findTie } from "../../core/panorama/ties/findTie";
import { tiePlane, type LogPlane } from "../../core/panorama/ties/tiePlane";
import { withTies, type TieEdits } from "../../core/panorama/ties/ties";
import { joinSights, mapOf, sightOf, type Sight } from "../../core/panorama/seams/seams";
import { panoramaSuspects } from "../../core/suspects/panoramaSuspects";
import type { DoubtfulPlace } from "../../core/panorama/layout/layoutDoubt";
import type { Geometry, PanoramaFrame, TiePair } from "../../core/panorama/layout/geometry";
import { warpPiece, type WarpInput } from "../../core/panorama/canvas/warpPiece";
import { pixelsOf } from "../../core/panorama/layout/pixels";
import { edgeAlong, offStraight, type StraightLine } from "../../core/panorama/level/straightLines";
import type { Guide } from "../../core/panorama/level/straighten";
import { placeFrames } from "../../core/panorama/layout/placeFrames";

const holdSums = (heap: Heap, { bounds, finest, coarser }: Sums): void =>
  heap.ensure(
    Math.max(
      finest.ptr + finest.planeBytes * 4,
      ...coarser.map((c) => c + coarserOf(bounds).bytes),
    ) + 64,
  );

/** What the panorama's steps ask of a worker. */
export const panoramaTasks = {
  /**
   * Corners of a frame, its small frame and its straight edges; its log luminance and confidences
   * are left at `planes`.
   */
  features(
    { heap }: StepContext,
    a: {
      frame: ReducedFrame;
      planes: number;
      scale: number;
      /** at full size, if it is known */
      focalPx: number | undefined;
      lens?: LensKind;
      /** px at full size */
      circle?: number;
      centre?: readonly [number, number];
    },
  ): { features: Features; small: SmallFrame; edges: Segment[]; detail: number } {
    const n = a.frame.width * a.frame.height;
    heap.ensure(a.planes + n * 8 + 64);
    const pyramid = logPyramid(heap, a.frame, 0);
    tiePlane(heap, pyramid.levels[0]!, a.planes);
    const small = makeSmallFrame(heap, a.frame, a.scale);
    return {
      features: findFeatures(
        heap,
        pyramid,
        a.focalPx && a.focalPx / a.scale,
        a.lens,
        a.circle && a.circle / a.scale,
        a.centre && [a.centre[0] / a.scale, a.centre[1] / a.scale],
      ),
      small,
      edges: straightEdges(small),
      detail: fineDetail(heap.f32(pyramid.levels[0]!.log, n), a.frame.width, a.frame.height),
    };
  },

  imageCircle({ heap }: StepContext, a: { frame: ReducedFrame; scale: number }) {
    return findImageCircle(heap, a.frame, a.scale);
  },

  match({ heap }: StepContext, a: { pairs: { a: number; b: number; A: Features; B: Features }[] }) {
    return a.pairs.map(({ a: i, b: j, A, B }) => ({
      a: i,
      b: j,
      found: matchFeatures(heap, A, B),
    }));
  },

  solve(
    { heap }: StepContext,
    a: {
      frames: PanoramaFrame[];
      features: Features[];
      scale: number;
      matches: Parameters<typeof placeFrames>[3];
      planes: LogPlane[];
      flat: boolean;
      edges: Segment[][];
    },
  ): Geometry {
    return placeFrames(
      a.frames,
      a.features,
      a.scale,
      a.matches,
      a.edges,
      pixelsOf(heap, a.planes, a.scale),
      a.flat,
    );
  },

  retie(
    _: StepContext,
    a: {
      frames: PanoramaFrame[];
      geometry: Geometry;
      edits: Omit<TieEdits, "lines">;
      straight: Pick<Guide, "from" | "to">[];
      small: SmallFrame[];
    },
  ): Geometry {
    const seen = a.straight.map(({ from, to }) =>
      a.geometry.cameras.flatMap((c, frame): StraightLine[] => {
        const points = c && edgeAlong(c, a.small[frame]!, from, to);
        return points ? [{ frame, points }] : [];
      }),
    );
    const lines = seen.flat();
    const { added, dropped, hidden } = a.edits;
    const asked =
      lines.length + added.length + dropped.length > 0 || hidden.some((h) => h.length > 0);
    const done = asked ? withTies(a.frames, a.geometry, { ...a.edits, lines }) : a.geometry;
    return a.straight.length
      ? {
          ...done,
          straight: seen.map((of) => {
            const off = of.flatMap((l) => {
              const c = done.cameras[l.frame];
              return c ? offStraight(c, l.points) : [];
            });
            return off.length ? Math.sqrt(off.reduce((s, e) => s + e * e, 0) / off.length) : null;
          }),
        }
      : done;
  },

  findTie(
    { heap }: StepContext,
    a: {
      frames: ReducedFrame[];
      scale: number;
      cameras: Parameters<typeof findTie>[3];
      point: TiePair["points"][number];
    },
  ) {
    const [A, B] = a.frames.map((f): LogPlane => {
      const to = heap.alloc(f.width * f.height * 8 + 64);
      const mark = heap.mark();
      const plane = tiePlane(heap, logPyramid(heap, f, 0).levels[0]!, to);
      heap.release(mark);
      return plane;
    });
    return findTie(heap, A!, B!, a.cameras, a.scale, a.point);
  },

  duplicates(
    _: StepContext,
    a: { cameras: (Camera | undefined)[]; small: SmallFrame[]; detail: number[]; kept: boolean[] },
  ) {
    return findDuplicates(a.cameras, a.small, a.detail, a.kept);
  },

  layOut(
    _: StepContext,
    a: {
      cameras: (Camera | undefined)[];
      small: SmallFrame[];
      evs: (number | undefined)[];
      ramp: boolean;
      wanted: Wanted;
    },
  ) {
    const light = equaliseExposure(a.cameras, exposedReader(a.small), a.evs);
    return {
      light: a.ramp ? { ...light, ramp: rampOf(a.cameras, light.gains) } : light,
      canvas: canvasFor(
        a.cameras.filter((c): c is Camera => c !== undefined),
        a.wanted,
      ),
    };
  },
  sight(
    _: StepContext,
    {
      camera,
      canvas,
      image,
      light,
      masks,
    }: {
      camera: Camera;
      canvas: Canvas;
      image: SmallFrame;
      light: Parameters<typeof sightOf>[3];
      masks: Part[];
    },
  ) {
    const colourAt = colourReader([image]);
    return sightOf(camera, mapOf(canvas), (x, y) => colourAt(0, x, y), light, masks);
  },
  compose(
    { heap }: StepContext,
    a: {
      cameras: (Camera | undefined)[];
      canvas: Canvas;
      light: Light;
      sights: (Sight | undefined)[];
      small: SmallFrame[];
      pairs: readonly TiePair[];
      doubtful: readonly DoubtfulPlace[];
      /** how far to bend it to a rectangle, 0 to 1 */
      bend: number;
      filled: boolean;
      masks: Part[][];
    },
  ) {
    const { labels, colour } = joinSights(heap, a.cameras, mapOf(a.canvas), a.sights);
    const made = bendCanvas(a.canvas, labels, colour, a.bend);
    return {
      ...made,
      suspects: panoramaSuspects({ ...a, ...made, colourAt: colourReader(a.small) }),
    };
  },

  warpPiece({ heap }: StepContext, a: { input: WarpInput; y0: number; y1: number }) {
    for (const p of a.input.planes)
      heap.ensure(p + a.input.piece.width * a.input.piece.height * 4 + 64);
    warpPiece(heap, a.input, a.y0, a.y1);
  },
  reducePiece({ heap }: StepContext, a: { piece: Piece; at: number }) {
    heap.ensure(a.at + pieceShape(a.piece).bytes);
    reducePiece(heap, a.piece, a.at);
  },
  addPiece(
    { heap }: StepContext,
    a: { piece: Piece; planes: readonly number[]; sums: Sums; y0: number; y1: number },
  ) {
    holdSums(heap, a.sums);
    addPiece(heap, a.piece, a.planes, a.sums, a.y0, a.y1);
  },
  collapseCoarser({ heap }: StepContext, a: { sums: Sums; channel: number }) {
    holdSums(heap, a.sums);
    collapseCoarser(heap, a.sums, a.channel);
  },
  finishRows(
    { heap }: StepContext,
    a: { sums: Sums; matrix: readonly number[]; y0: number; y1: number },
  ) {
    holdSums(heap, a.sums);
    finishRows(heap, a.sums, a.matrix, a.y0, a.y1);
  },
  cutOut({ heap }: StepContext, a: { plane: number; stride: number; part: Bounds }) {
    cutOut(heap, a.plane, a.stride, a.part);
  },
  makePatchwork({ heap }: StepContext, a: { acc: Accumulator; patchwork: AllocatedPatchwork }) {
    heap.ensure(a.patchwork.colour + a.patchwork.bytes);
    makePatchwork(heap, a.acc, a.patchwork);
  },
  fillRows(
    { heap }: StepContext,
    a: { acc: Accumulator; patchwork: AllocatedPatchwork; y0: number; y1: number },
  ) {
    fillRows(heap, a.acc, a.patchwork, a.y0, a.y1);
  },
};
