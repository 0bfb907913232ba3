import { resizeScratch } from "../../core/raster/resizePicture";
import { neighbourhoodMargin, neighbourhoodPlan } from "../../core/finish/neighbourhood";
import type { DisplayCode } from "../../core/output/displayCode";
import type { Finish } from "../../core/finish/finish";
import { finishedScratch, TILE_ROWS } from "../../core/finish/renderFinished";
import { bytesPerPixel, type PixelKind, type RenderSettings } from "../../core/tone/renderStrip";
import type { PreparedFinish } from "../finish/prepareFinish";
import { joinedBands, type RowsAtHand } from "./joinedBands";
import type { Tasks } from "../worker/tasks";
import type { Band, ComingBand } from "../merge/band";
import type { Accumulator } from "../../core/raster/accumulator";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { ToneField } from "../../core/tone/toneField";
import { gainScratch } from "../../core/output/gainRows";
import { TaskScope } from "../../runtime/taskScope";
import { plain, type Scene } from "../merge/scene";
import type { FrameInfo } from "../../core/frame/frame";
import { fileLayout } from "./fileLayout";
import { finishOutput, mapPlanes, type Rendered } from "./finishOutput";
import {
  beyondWhiteOf,
  deliverSettings,
  type DeliverSettings,
  type FileSettings,
} from "./settings";
import { defineStep, sizeAt } from "../step";
import { rowsOf, type Watch } from "../../runtime/work";
import { type Work } from "../work";
import { OUTPUT_FORMATS } from "../../codecs/outputFormats";

/** A merged picture as it comes: in one piece, or band by band where it would not fit whole. */
export interface Coming {
  width: number;
  height: number;
  bands: readonly ComingBand[];
}
/** Rendered pixels, with what else a file holds of them; all are the caller's to free. */
export type Delivery = Rendered & Size;
/** A scene that is there whole. */
export const atOnce = (scene: Scene): Coming => ({
  width: scene.width,
  height: scene.height,
  bands: [
    {
      y0: 0,
      y1: scene.height,
      take: () => Promise.resolve({ rows: plain(scene), done: () => undefined }),
    },
  ],
});
/** Bytes of scratch for rendering rows so many px wide. */
export const renderScratch = (width: number, finish?: Finish): number =>
  width * 52 +
  (1 << 16) +
  (finish ? finishedScratch(width, neighbourhoodMargin(neighbourhoodPlan(finish)) > 0) : 0);

/** How a picture is rendered. */
export interface Rendering {
  field: ToneField;
  settings: RenderSettings;
  /** of its parts, where any changes something */
  finish?: PreparedFinish | undefined;
  /** how it is toned for a display that goes so many EV beyond white */
  bright?: { field: ToneField; headroom: number } | undefined;
}

/**
 * Renders the picture, or a part of it, into memory as a file of the chosen format holds it.
 * Encoding is the host's.
 */
export const deliverStep = defineStep({
  settings: deliverSettings,
  key: ({ deliver }: { deliver: DeliverSettings }) => deliver,
  plan(frames: readonly FrameInfo[], settings: FileSettings, downscale: number) {
    const { width, height } = sizeAt(frames[0]!, downscale);
    const bytes = width * height * bytesPerPixel(pixelKind(settings)) + 64;
    return { width, height, margin: 0, peakBytes: bytes, heldBytes: bytes };
  },
  /**
   * Renders a region of the picture at the size that was asked for.
   *
   * @param kept  what is kept of the picture; of it, what its paper has room for
   * @param withCoverage  whether how far each pixel is covered goes with it (rows say so behind
   *   their three planes, 0 where nothing is)
   * @returns the address of the pixels, tightly packed, of their coverage and their gain beyond
   *   white in bytes, all the caller's to free, and the size
   */
  async run(
    work: Work,
    picture: Coming,
    kept: Rectangle,
    rendering: Rendering,
    settings: FileSettings,
    withCoverage: boolean,
    { progress, signal }: Watch,
  ): Promise<Delivery> {
    await using scope = new TaskScope<Tasks>(work);
    const kind = pixelKind(settings);
    const layout = fileLayout(kept, settings);
    const { width, height } = layout.taken;
    const region = { x: kept.x + layout.taken.x, y: kept.y + layout.taken.y, width, height };
    let pixels: Rendered = { dst: scope.allocate(width * height * bytesPerPixel(kind) + 64) };
    if (withCoverage) pixels = { ...pixels, coverage: scope.allocate(width * height) };
    const { field, settings: render, finish: prepared, bright } = rendering;
    if (bright) pixels = { ...pixels, gain: scope.allocate(width * height) };
    const margin = prepared ? neighbourhoodMargin(neighbourhoodPlan(prepared)) : 0;
    // whole tiles, and what is round them
    const around = margin ? margin + TILE_ROWS : 0;
    const bands = picture.bands.filter((band) => {
      const { y0, y1 } = rowsIn(band, region, around);
      return y0 < y1;
    });
    let done = 0;
    let finish: Finish | undefined;
    for await (const band of joinedBands(scope, bands, picture.height, margin)) {
      try {
        if (prepared) finish ??= await withNoise(scope, prepared, band.rows, signal);
        await renderBand(
          scope,
          { picture, band, region, field, render, finish, bright, kind, signal },
          pixels,
          (count) => progress((done += count) / height, "Toning"),
        );
      } finally {
        await scope.idle();
        band.done();
      }
    }
    const size = layout.picture;
    const isReduced = size.width !== width || size.height !== height;
    if (isReduced) pixels = await reduce(scope, pixels, region, size, kind, render.linear, signal);
    pixels = await finishOutput(scope, pixels, layout, kind, settings, signal);
    const delivered = layout.file;
    if (bright && beyondWhiteOf(settings) === "code") {
      const code = { code: settings.displayCode, headroom: bright.headroom };
      pixels = await codeForDisplay(scope, pixels, delivered, code, signal);
    }
    scope.keep(pixels.dst, pixels.coverage, pixels.gain);
    return { ...pixels, ...delivered };
  },
});

interface BandInput {
  picture: Coming;
  /** the band's light */
  band: RowsAtHand;
  region: Rectangle;
  field: ToneField;
  render: RenderSettings;
  finish: Finish | undefined;
  bright: Rendering["bright"];
  kind: PixelKind;
  signal: AbortSignal | undefined;
}

/** The rows of a band that lie in a region, or within so many px of it. */
const rowsIn = ({ y0, y1 }: Band, region: Rectangle, margin = 0): Band => ({
  y0: Math.max(region.y - margin, y0),
  y1: Math.min(region.y + region.height + margin, y1),
});

/** A finish with the noise of the light that it is rendered from, where it asks for it. */
export async function withNoise(
  work: Work,
  { noiseByWeights, ...finish }: PreparedFinish,
  rows: Accumulator,
  signal?: AbortSignal,
): Promise<Finish> {
  if (!neighbourhoodMargin(neighbourhoodPlan(finish))) return finish;
  const scene = plain(rows);
  const noise = await work.run(
    "measureNoise",
    { scene, byWeights: noiseByWeights },
    { scratch: 1 << 16, ...(signal ? { signal } : {}) },
  );
  return { ...finish, noise };
}

/** Rows in strips for the threads; whole tiles where a finish works in such. */
function stripsOf(
  rows: number,
  first: number,
  finish: Finish | undefined,
  count: number,
): [number, number][] {
  if (!finish) return rowsOf(rows, count);
  const strips: [number, number][] = [];
  for (let y = 0; y < rows;) {
    const next = Math.min(rows, (Math.floor((first + y) / TILE_ROWS) + 1) * TILE_ROWS - first);
    strips.push([y, next]);
    y = next;
  }
  return strips;
}

/** Renders what a band has of the region, and the planes that are asked for. */
async function renderBand(
  work: Work,
  { picture, band, region, field, render, finish, bright, kind, signal }: BandInput,
  { dst, coverage, gain }: Rendered,
  tell: (rows: number) => void,
): Promise<void> {
  const on = signal ? { signal } : {};
  const { x, width } = region;
  const { y0, y1 } = rowsIn(band, region);
  if (y0 >= y1) return;
  const { rows, top } = band;
  const first = y0 - region.y;
  const lies = { x: 0, y: top / picture.height, width: 1, height: rows.height / picture.height };
  const part = { x, y: y0 - top, width, height: y1 - y0 };
  const scene = { ...plain(rows), lies };
  await Promise.all(
    stripsOf(y1 - y0, y0, finish, work.threads * 8).map(async ([a, b]) => {
      await work.run(
        "render",
        {
          scene,
          field,
          settings: render,
          ...(finish ? { finish } : {}),
          region: part,
          kind,
          dst: dst + first * width * bytesPerPixel(kind),
          y0: a,
          y1: b,
        },
        { scratch: renderScratch(width, finish), ...on },
      );
      if (coverage !== undefined)
        await work.run(
          "coverage",
          {
            scene: rows,
            region: { ...part, y: part.y + a, height: b - a },
            dst: coverage + (first + a) * width,
          },
          on,
        );
      if (gain !== undefined && bright)
        await work.run(
          "gainRows",
          {
            scene,
            field,
            bright: bright.field,
            headroom: bright.headroom,
            settings: render,
            region: { ...part, y: part.y + a, height: b - a },
            dst: gain + (first + a) * width,
          },
          { scratch: renderScratch(width) + gainScratch(width), ...on },
        );
      tell(b - a);
    }),
  );
}

type Size = { width: number; height: number };

/** Reduces rendered pixels and their planes to another size. */
async function reduce(
  work: Work,
  { dst, ...planes }: Rendered,
  { width, height }: Size,
  size: Size,
  kind: PixelKind,
  linear: boolean,
  signal: AbortSignal | undefined,
): Promise<Rendered> {
  const on = signal ? { signal } : {};
  const strips = rowsOf(size.height, work.threads * 8);
  const from = { ptr: dst, width, height };
  const to = { ptr: work.allocate(size.width * size.height * bytesPerPixel(kind) + 64), ...size };
  await Promise.all(
    strips.map(([y0, y1]) =>
      work.run(
        "resizePicture",
        { from, to, kind, linear, y0, y1 },
        { scratch: resizeScratch(from, to, y1 - y0), ...on },
      ),
    ),
  );
  work.free(dst);
  return mapPlanes(work, { ...planes, dst: to.ptr }, size, (at, ptr) =>
    Promise.all(
      strips.map(([y0, y1]) =>
        work.run(
          "meanBytes",
          { from: { ptr: at, width, height }, to: { ptr, ...size }, y0, y1 },
          on,
        ),
      ),
    ),
  );
}

/** Pixels in the code of displays that go beyond white, instead of with their gains. */
async function codeForDisplay(
  work: Work,
  { gain, ...pixels }: Rendered,
  { width, height }: Size,
  code: { code: DisplayCode; headroom: number },
  signal: AbortSignal | undefined,
): Promise<Rendered> {
  const on = signal ? { signal } : {};
  await Promise.all(
    rowsOf(height, work.threads * 8).map(([y0, y1]) =>
      work.run(
        "codeForDisplay",
        {
          pixels: pixels.dst + y0 * width * bytesPerPixel("rgb16"),
          gains: gain! + y0 * width,
          ...code,
          count: (y1 - y0) * width,
        },
        on,
      ),
    ),
  );
  work.free(gain!);
  return pixels;
}

type FileKind = Exclude<PixelKind, "rgba8">;
const DEPTHS_UP = ["8", "16", "32f"] as const;

/** The samples that the file's format and depth ask for; no deeper than the format holds. */
export function pixelKind({
  format,
  depth,
  headroom,
}: Pick<FileSettings, "format" | "depth" | "headroom">): FileKind {
  const { light, depths } = OUTPUT_FORMATS[format];
  if (light) return "rgb32f";
  // fewer codes would show steps
  if (beyondWhiteOf({ format, headroom }) === "code") return "rgb16";
  const held = DEPTHS_UP.slice(0, DEPTHS_UP.indexOf(depth) + 1).filter((d) =>
    (depths as readonly string[]).includes(d),
  );
  return PIXELS_OF[held.at(-1) ?? "8"];
}
const PIXELS_OF = { "8": "rgb8", "16": "rgb16", "32f": "rgb32f" } as const;
