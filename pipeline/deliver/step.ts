import * as v from "valibot";
import { SPACE_IDS } from "../../core/colour/spaces";
import { resizeScratch } from "../../core/raster/resizePicture";
import { bytesPerPixel, type PixelKind, type RenderSettings } from "../../core/tone/renderStrip";
import type { ComingBand } from "../merge/band";
import { plain, type Scene } from "../merge/scene";
import type { FrameInfo } from "../../core/frame/frame";
import { defineStep, sizeAt } from "../step";
import type { AllocatedField } from "../tone/step";
import { rowsOf, type Watch } from "../../runtime/work";
import { type Work } from "../work";
import {
  CHROMAS,
  COMPRESSIONS,
  OUTPUT_FORMAT_IDS,
  OUTPUT_FORMATS,
} from "../../codecs/outputFormats";

const schema = v.object({
  format: v.picklist(OUTPUT_FORMAT_IDS),
  space: v.picklist(SPACE_IDS),
  depth: v.picklist(["8", "16", "32f"]),
  quality: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(100)),
  chroma: v.picklist(CHROMAS),
  compression: v.picklist(COMPRESSIONS),
  /** px of the file's longer edge; 0 leaves the picture as large as it is */
  longEdge: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(65535)),
  /** at which it is to be printed, px an inch */
  ppi: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(4800)),
  creator: v.pipe(v.string(), v.maxLength(200)),
  copyright: v.pipe(v.string(), v.maxLength(400)),
});
export type DeliverSettings = v.InferOutput<typeof schema>;
/** A merged picture as it comes: in one piece, or band by band where it would not fit whole. */
export interface Coming {
  width: number;
  height: number;
  bands: readonly ComingBand[];
}
export interface Delivery {
  dst: number;
  coverage?: number;
  width: number;
  height: number;
}
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
export const renderScratch = (width: number): number => width * 52 + (1 << 16);

/**
 * Renders the picture, or a part of it, into memory as a file of the chosen format holds it.
 * Encoding is the host's.
 */
export const deliverStep = defineStep({
  settings: {
    schema,
    defaults: {
      format: "jpg",
      space: "srgb",
      depth: "8",
      quality: 92,
      chroma: "full",
      compression: "lzw",
      longEdge: 0,
      ppi: 300,
      creator: "",
      copyright: "",
    },
  },
  key: ({ deliver }: { deliver: DeliverSettings }) => deliver,
  plan(frames: readonly FrameInfo[], settings: DeliverSettings, downscale: number) {
    const { width, height } = sizeAt(frames[0]!, downscale);
    const bytes = width * height * bytesPerPixel(pixelKind(settings)) + 64;
    return { width, height, margin: 0, peakBytes: bytes, heldBytes: bytes };
  },
  /**
   * Renders a region of the picture at the size that was asked for.
   *
   * @param withCoverage  whether how far each pixel is covered goes with it (rows say so behind
   *   their three planes, 0 where nothing is)
   * @returns the address of the pixels, tightly packed, and of their coverage in bytes, both to be
   *   given back, and the size
   */
  async run(
    work: Work,
    picture: Coming,
    region: { x: number; y: number; width: number; height: number },
    { field }: AllocatedField,
    render: RenderSettings,
    settings: DeliverSettings,
    withCoverage: boolean,
    { progress, signal }: Watch,
  ): Promise<Delivery> {
    const kind = pixelKind(settings);
    const on = signal ? { signal } : {};
    const size = deliveredSize(region, settings);
    const whole = { width: region.width, height: region.height };
    let dst = work.allocate(region.width * region.height * bytesPerPixel(kind) + 64);
    let coverage: number | undefined;
    const line = region.width * bytesPerPixel(kind);
    let done = 0;
    try {
      if (withCoverage) coverage = work.allocate(region.width * region.height);
      for (const band of picture.bands) {
        const y0 = Math.max(region.y, band.y0);
        const y1 = Math.min(region.y + region.height, band.y1);
        if (y0 >= y1) continue;
        const { rows, done: release } = await band.take();
        const lies = {
          x: 0,
          y: band.y0 / picture.height,
          width: 1,
          height: rows.height / picture.height,
        };
        try {
          await Promise.all(
            rowsOf(y1 - y0, work.threads * 8).map(async ([a, b]) => {
              await work.run(
                "render",
                {
                  scene: { ...rows, lies },
                  field,
                  settings: render,
                  region: { x: region.x, y: y0 - band.y0, width: region.width, height: y1 - y0 },
                  kind,
                  dst: dst + (y0 - region.y) * line,
                  y0: a,
                  y1: b,
                },
                { scratch: renderScratch(region.width), ...on },
              );
              if (coverage !== undefined)
                await work.run(
                  "coverage",
                  {
                    scene: rows,
                    region: {
                      x: region.x,
                      y: y0 - band.y0 + a,
                      width: region.width,
                      height: b - a,
                    },
                    dst: coverage + (y0 - region.y + a) * region.width,
                  },
                  on,
                );
              progress((done += b - a) / region.height, "Toning");
            }),
          );
          release();
        } catch (e) {
          await work.idle();
          release();
          throw e;
        }
      }
      if (size.width !== region.width) {
        const reduced = async (
          ptr: number,
          bytes: number,
          run: (
            from: { ptr: number; width: number; height: number },
            to: { ptr: number; width: number; height: number },
          ) => Promise<unknown>,
        ): Promise<number> => {
          const to = work.allocate(size.width * size.height * bytes + 64);
          try {
            await run({ ptr, ...whole }, { ptr: to, ...size });
          } catch (e) {
            await work.idle();
            work.free(to);
            throw e;
          }
          work.free(ptr);
          return to;
        };
        const strips = rowsOf(size.height, work.threads * 8);
        dst = await reduced(dst, bytesPerPixel(kind), (from, to) =>
          Promise.all(
            strips.map(([y0, y1]) =>
              work.run(
                "resizePicture",
                { from, to, kind, linear: render.linear, y0, y1 },
                { scratch: resizeScratch(from, to, y1 - y0), ...on },
              ),
            ),
          ),
        );
        if (coverage !== undefined)
          coverage = await reduced(coverage, 1, (from, to) =>
            Promise.all(
              strips.map(([y0, y1]) => work.run("meanCoverage", { from, to, y0, y1 }, on)),
            ),
          );
      }
      return { dst, ...(coverage === undefined ? {} : { coverage }), ...size };
    } catch (e) {
      await work.idle();
      for (const at of [dst, coverage]) if (at !== undefined) work.free(at);
      throw e;
    }
  },
});

/** The picture's size in the file: never enlarged, its proportions kept. */
export function deliveredSize(
  { width, height }: { width: number; height: number },
  { longEdge }: Pick<DeliverSettings, "longEdge">,
): { width: number; height: number } {
  const s = longEdge ? Math.min(1, longEdge / Math.max(width, height)) : 1;
  return { width: Math.max(1, Math.round(width * s)), height: Math.max(1, Math.round(height * s)) };
}

/** The samples that the file's format and depth ask for. */
export function pixelKind({ format, depth }: DeliverSettings): PixelKind {
  if (OUTPUT_FORMATS[format].light || (depth === "32f" && format === "tif")) return "rgb32f";
  return format === "jpg" || depth === "8" ? "rgb8" : "rgb16";
}
