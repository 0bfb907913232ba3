import { type Accumulator } from "../../core/raster/accumulator";
import { type ToneField } from "../../core/tone/toneField";
import type { Finish } from "../../core/finish/finish";
import { renderFinished, type KnownNeighbourhoods } from "../../core/finish/renderFinished";
import { markClipped } from "../../core/tone/markClipped";
import {
  bytesPerPixel,
  renderStrip,
  type Planes,
  type PixelKind,
  type RenderSettings,
} from "../../core/tone/renderStrip";
import { paintMap, type MapInput } from "../../core/maps/maps";
import { resizePlane, tapsFor } from "../../core/raster/resize";
import { framed, type FramedInput } from "../../core/output/framed";
import { sharpenOutput, type OutputSharpening } from "../../core/output/sharpenOutput";
import { resizePicture } from "../../core/raster/resizePicture";
import { DISPLAY_CODE, type DisplayCode } from "../../core/output/displayCode";
import { applySoftProof, type SoftProofTable } from "../../core/output/softProof";
import { gainRows, type GainInput } from "../../core/output/gainRows";
import type { StepContext } from "../stepContext";

type Region = { x: number; y: number; width: number; height: number };

/** What drawing and delivering a picture ask of a worker. */
export const deliverTasks = {
  paintMap({ heap }: StepContext, a: MapInput) {
    return paintMap(heap, a);
  },

  /** A part of the scene at another size: rows y0 to y1 of its light and of what it is worth. */
  resize(
    { heap }: StepContext,
    a: { scene: Accumulator; part: Region; to: Accumulator; y0: number; y1: number },
  ) {
    heap.ensure(Math.max(a.scene.ptr + a.scene.planeBytes * 4, a.to.ptr + a.to.planeBytes * 4));
    const { scene, part, to } = a;
    const across = tapsFor(scene.width, part.x, part.width / to.width, to.width, "triangle");
    const down = tapsFor(scene.height, part.y, part.height / to.height, to.height, "triangle");
    for (let c = 0; c < 4; c++)
      resizePlane(
        heap,
        scene.ptr + c * scene.planeBytes,
        scene.width,
        across,
        down,
        to.ptr + c * to.planeBytes,
        a.y0,
        a.y1,
      );
  },

  /** How much brighter a region is beyond white, as bytes, row by row. */
  gainRows({ heap }: StepContext, a: GainInput & { region: Region; dst: number }) {
    heap.ensure(a.dst + a.region.width * a.region.height);
    gainRows(heap, a, a.region, a.dst);
  },

  /** Pixels of 16 bits, in place in a code of displays that go beyond white. */
  codeForDisplay(
    { heap }: StepContext,
    a: { pixels: number; gains: number; code: DisplayCode; headroom: number; count: number },
  ) {
    heap.ensure(Math.max(a.pixels + a.count * 6, a.gains + a.count));
    DISPLAY_CODE[a.code].code(heap, a.pixels, a.gains, a.headroom, a.count);
  },

  /** Which pixels of a region are covered, as bytes of 0 or 255, row by row. */
  coverage({ heap }: StepContext, a: { scene: Accumulator; region: Region; dst: number }) {
    const { scene, region } = a;
    const W = heap.f32(scene.ptr + 3 * scene.planeBytes, scene.width * scene.height);
    heap.ensure(a.dst + region.width * region.height);
    const out = heap.u8(a.dst, region.width * region.height);
    for (let y = 0; y < region.height; y++)
      for (let x = 0; x < region.width; x++)
        out[y * region.width + x] = W[(region.y + y) * scene.width + region.x + x]! > 0 ? 255 : 0;
  },

  /** Rows y0 to y1 of bytes for each px at a smaller size: means. */
  meanBytes(
    { heap }: StepContext,
    a: {
      from: { ptr: number; width: number; height: number };
      to: { ptr: number; width: number; height: number };
      y0: number;
      y1: number;
    },
  ) {
    const { from, to } = a;
    const sx = from.width / to.width;
    const sy = from.height / to.height;
    const C = heap.u8(from.ptr, from.width * from.height);
    heap.ensure(to.ptr + to.width * to.height);
    const out = heap.u8(to.ptr, to.width * to.height);
    for (let y = a.y0; y < a.y1; y++)
      for (let x = 0; x < to.width; x++) {
        const x0 = Math.floor(x * sx);
        const y0 = Math.floor(y * sy);
        const x1 = Math.max(x0 + 1, Math.floor((x + 1) * sx));
        const y1 = Math.max(y0 + 1, Math.floor((y + 1) * sy));
        let sum = 0;
        for (let v = y0; v < y1; v++) for (let u = x0; u < x1; u++) sum += C[v * from.width + u]!;
        out[y * to.width + x] = Math.round(sum / ((x1 - x0) * (y1 - y0)));
      }
  },

  /** Rows y0 to y1 of a picture, sharpened into another one. */
  sharpenOutput(
    { heap }: StepContext,
    a: {
      from: { ptr: number; width: number; height: number };
      to: { ptr: number; width: number; height: number };
      kind: "rgb8" | "rgb16";
      sharpening: OutputSharpening;
      y0: number;
      y1: number;
    },
  ) {
    heap.ensure(a.to.ptr + a.to.width * a.to.height * bytesPerPixel(a.kind));
    sharpenOutput(heap, a.from, a.to, a.kind, a.sharpening, a.y0, a.y1);
  },

  /** A picture with a border of one tone round it. */
  frameOutput({ heap }: StepContext, a: FramedInput) {
    const bytes = a.kind === "bytes" ? 1 : bytesPerPixel(a.kind);
    heap.ensure(a.to.ptr + a.to.width * a.to.height * bytes);
    framed(heap, a);
  },

  resizePicture(
    { heap }: StepContext,
    a: {
      from: { ptr: number; width: number; height: number };
      to: { ptr: number; width: number; height: number };
      kind: PixelKind;
      linear: boolean;
      y0: number;
      y1: number;
    },
  ) {
    for (const p of [a.from, a.to]) heap.ensure(p.ptr + p.width * p.height * bytesPerPixel(a.kind));
    resizePicture(heap, a.from, a.to, a.kind, a.linear, a.y0, a.y1);
  },

  /** Marks what is at either end of a picture of RGBA that shows a region. */
  markClipped({ heap }: StepContext, a: { at: number; region: Region }) {
    const { x, y, width, height } = a.region;
    markClipped(heap.u8(a.at, width * height * 4), width, x, y);
  },

  /**
   * Shows a picture of RGBA as a paper would, in place.
   *
   * @returns how many of its pixels the paper cannot show
   */
  softProof(
    { heap }: StepContext,
    a: { at: number; region: Region; table: SoftProofTable; isMarked: boolean },
  ): number {
    const { width, height } = a.region;
    return applySoftProof(heap.u8(a.at, width * height * 4), a.table, a.region, a.isMarked);
  },

  /** Renders rows y0..y1 of a region to their place in the picture at `dst`. */
  render(
    { heap }: StepContext,
    a: {
      scene: Planes;
      field: ToneField;
      settings: RenderSettings;
      /** of the picture's parts; with neighbourhoods that were found before, if any were */
      finish?: Finish;
      known?: KnownNeighbourhoods;
      region: Region;
      kind: PixelKind;
      dst: number;
      y0: number;
      y1: number;
    },
  ) {
    const line = a.region.width * bytesPerPixel(a.kind);
    const at = a.dst + a.y0 * line;
    const part = { ...a.region, y: a.region.y + a.y0, height: a.y1 - a.y0 };
    heap.ensure(a.dst + a.y1 * line);
    if (a.finish) {
      const { scene, field, settings, finish, known } = a;
      const strip = { scene, field, settings, finish, ...(known ? { known } : {}) };
      renderFinished(heap, strip, part, a.kind, at, 0, part.height);
    } else renderStrip(heap, a.scene, a.field, a.settings, part, a.kind, at, 0, part.height);
  },
};
