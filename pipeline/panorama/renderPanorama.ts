import { planeBytesOf, type Accumulator } from "../../core/raster/accumulator";
import {
  coarserOf,
  BLEND_MARGIN,
  pieceScratch,
  pieceShape,
  piecesOf,
  PYRAMID_UNIT,
  type Sums,
} from "../../core/panorama/blend/blend";
import type { Camera } from "../../core/panorama/camera";
import { BLOCK_ROWS, warpScratch } from "../../core/panorama/canvas/warpPiece";
import { fillUncovered } from "../fill/fillUncovered";
import { shrunk, type Canvas } from "../../core/panorama/canvas/projection";
import { darkNoise } from "../../core/tone/darkNoise";
import { BASIS_PARTS } from "../../core/tone/toneBasis";
import { IDENTITY } from "../../core/math/matrix3";
import { toScene } from "../merge/finish";
import { bandsBy, widened, type Band } from "../merge/band";
import { addressesOf, type Scene } from "../merge/scene";
import { KeptFrames } from "../keptFrames";
import { TaskScope } from "../../runtime/taskScope";
import { cleared, inStrips, rowsOf, type Watch } from "../../runtime/work";
import { type StackFrame, type Work } from "../work";
import { type LoadedFrame } from "../loadedFrame";
import type { Layout } from "./layout";

/**
 * A picture up to this many pixels is joined whole, a larger one in bands of about a quarter of
 * that, so that it need not fit in memory.
 */
export const WHOLE_PX = 44e6;
const BAND_PX = 12e6;

/**
 * The bands of a canvas: they follow from its size alone, so that its bytes do not depend on the
 * memory there is.
 */
export function bandsOf({ width, height }: Pick<Canvas, "width" | "height">): Band[] {
  if (width * height <= WHOLE_PX) return [{ y0: 0, y1: height }];
  const rows = Math.max(BLEND_MARGIN, Math.floor(BAND_PX / width / PYRAMID_UNIT) * PYRAMID_UNIT);
  return bandsBy(height, rows);
}

export interface PanoramaInput {
  frames: readonly StackFrame[];
  layout: Layout;
  canvas: Canvas;
  downscale: number;
  /** the frames at 1/downscale of their size, if they are there */
  loaded?: readonly LoadedFrame[];
  /** or where they are read */
  kept?: KeptFrames;
}

/**
 * The whole panorama at 1/downscale of its size, with what toning needs.
 *
 * @param fill  what no frame covers, too
 */
export async function renderPanorama(
  work: Work,
  { fill, ...input }: PanoramaInput & { fill: boolean },
  watch: Watch,
): Promise<Scene> {
  await using scope = new TaskScope(work);
  const on = watch.signal ? { signal: watch.signal } : {};
  const { height } = shrunk(input.canvas, input.downscale);
  const acc = await joinFrames(scope, input, { y0: 0, y1: height }, watch);
  if (fill) await fillUncovered(scope, acc, on);
  const analysis = { basisParts: BASIS_PARTS, noise: darkNoise(input.frames[0]!.info) };
  const scene = await toScene(scope, acc, analysis, on);
  scope.keep(...addressesOf(scene));
  return scene;
}

/**
 * Joins the placed frames at 1/downscale of their size in a band of the canvas, frame by frame into
 * pyramids of sums: the memory it takes does not depend on the number of frames.
 *
 * @returns the band's rows as light, and what is covered (0 where nothing is)
 * @see Burt and Adelson, "A multiresolution spline with application to image mosaics", TOG 1983
 */
export async function joinFrames(
  work: Work,
  { frames, layout, canvas: full, downscale, loaded, kept: given }: PanoramaInput,
  band: Band,
  { progress, signal }: Watch,
): Promise<Accumulator> {
  await using scope = new TaskScope(work);
  const on = signal ? { signal } : {};
  const canvas = shrunk(full, downscale);
  const { labels, light } = layout;
  const kept = given ?? new KeptFrames(scope, frames, downscale, signal);
  const read = async (i: number): Promise<LoadedFrame> => loaded?.[i] ?? kept.read(i);
  // a full turn goes on beyond its sides, and a band above and below
  const { y0: top, y1: bottom } = widened(band, BLEND_MARGIN, canvas.height);
  const beside = canvas.closed ? BLEND_MARGIN : 0;
  const bounds = { x: -beside, y: top, width: canvas.width + 2 * beside, height: bottom - top };
  const scaled = (c: Camera): Camera => ({
    ...c,
    focalPx: c.focalPx / downscale,
    width: c.width / downscale,
    height: c.height / downscale,
    ...(c.centre && { centre: [c.centre[0] / downscale, c.centre[1] / downscale] }),
    ...(c.circle === undefined ? {} : { circle: c.circle / downscale }),
  });
  const planeBytes = planeBytesOf(bounds.width, bounds.height);
  const finest: Accumulator = {
    ptr: scope.allocate(planeBytes * 4 + 64),
    planeBytes,
    width: bounds.width,
    height: bounds.height,
  };
  const map = scope.allocate(labels.of.length);
  const below = coarserOf(bounds).bytes;
  const coarse = scope.allocate(below * 4 + 64);
  const sums: Sums = { bounds, finest, coarser: [0, 1, 2, 3].map((c) => coarse + c * below) };
  await Promise.all([
    cleared(scope, finest.ptr, planeBytes * 4, on),
    cleared(scope, coarse, below * 4, on),
    scope.run("put", { ptr: map, bytes: labels.of }, on),
  ]);
  const parts = layout.cameras.flatMap((c, place) => {
    const camera = c && scaled(c);
    return camera
      ? piecesOf(camera, canvas, bounds, labels, place).map((piece) => ({ place, camera, piece }))
      : [];
  });
  let matrix: readonly number[] | undefined;
  for (const [done, { place, camera, piece }] of parts.entries()) {
    const frame = await read(place);
    const own = pieceShape(piece).bytes;
    const next = parts.slice(done).find((p) => p.place !== place)?.place;
    // read while this one is warped
    if (next !== undefined) read(next).catch(() => undefined);
    matrix ??= frame.matrix;
    const whole = scope.allocate(own * 4);
    const planes = [0, 1, 2, 3].map((c) => whole + c * own);
    const scratch = pieceScratch(piece);
    const input = {
      frame,
      camera: { ...camera, width: frame.width, height: frame.height },
      canvas,
      light,
      place,
      bounds,
      piece,
      planes,
      labels: { ptr: map, width: labels.width, height: labels.height },
    };
    await Promise.all(
      rowsOf(piece.height, scope.threads * 3, BLOCK_ROWS).map(([y0, y1]) =>
        scope.run("warpPiece", { input, y0, y1 }, { scratch: warpScratch(frame.type), ...on }),
      ),
    );
    await Promise.all(
      planes.map((at) => scope.run("reducePiece", { piece, at }, { scratch, ...on })),
    );
    await Promise.all(
      rowsOf(piece.height, scope.threads * 4, PYRAMID_UNIT).map(([y0, y1]) =>
        scope.run("addPiece", { piece, planes, sums, y0, y1 }, { scratch, ...on }),
      ),
    );
    scope.free(whole);
    progress(
      (done + 1) / (parts.length + 1),
      `Joining frames, part ${done + 1} of ${parts.length}`,
    );
  }
  scope.free(map);
  await Promise.all(
    [0, 1, 2].map((channel) =>
      scope.run(
        "collapseCoarser",
        { sums, channel },
        { scratch: bounds.width * 8 + (1 << 14), ...on },
      ),
    ),
  );
  await inStrips(scope, bounds.height, (y0, y1) =>
    scope.run(
      "finishRows",
      { sums, matrix: matrix ?? IDENTITY, y0, y1 },
      { scratch: bounds.width * 8 + (1 << 14), ...on },
    ),
  );
  scope.free(coarse);
  const part = { x: beside, y: band.y0 - top, width: canvas.width, height: band.y1 - band.y0 };
  const acc = { ...finest, width: part.width, height: part.height };
  if (part.width < bounds.width || part.height < bounds.height)
    await Promise.all(
      [0, 1, 2, 3].map((c) =>
        scope.run("cutOut", { plane: finest.ptr + c * planeBytes, stride: bounds.width, part }, on),
      ),
    );
  scope.keep(acc.ptr);
  return acc;
}
