import { isSharpened, outputSharpening, sharpenScratch } from "../../core/output/sharpenOutput";
import { bytesPerPixel, type PixelKind } from "../../core/tone/renderStrip";
import { rowsOf } from "../../runtime/work";
import type { Work } from "../work";
import type { FileLayout } from "./fileLayout";
import type { FileSettings } from "./settings";

type Size = { width: number; height: number };
/** Px an inch of the screens that pictures are looked at on. */
const SCREEN_PPI = 110;

/** Rendered pixels at an address, with what else a file holds of each, a byte each. */
export interface Rendered {
  dst: number;
  /** how far they are covered */
  coverage?: number;
  /** how much brighter they are beyond white, of the headroom */
  gain?: number;
}
type BytePlane = "coverage" | "gain";

/** Makes each plane of bytes anew; those before are freed. */
export async function mapPlanes(
  work: Work,
  { dst, ...planes }: Rendered,
  size: Size,
  make: (from: number, to: number, plane: BytePlane) => Promise<unknown>,
): Promise<Rendered> {
  const out: Rendered = { dst };
  for (const [name, from] of Object.entries(planes) as [BytePlane, number][]) {
    const to = work.allocate(size.width * size.height + 64);
    await make(from, to, name);
    work.free(from);
    out[name] = to;
  }
  return out;
}

const BORDER_TONES = { white: 1, grey: 0.5, black: 0 };
/** A border is covered, and no brighter than it is. */
const BORDER_BYTES = { coverage: 1, gain: 0 };

/** Sharpens rendered pixels for what they are looked at on, and lays them into their file. */
export async function finishOutput(
  work: Work,
  pixels: Rendered,
  { picture: size, file: outer, ppi }: FileLayout,
  kind: Exclude<PixelKind, "rgba8">,
  settings: FileSettings,
  signal: AbortSignal | undefined,
): Promise<Rendered> {
  const on = signal ? { signal } : {};
  const { sharpenFor, sharpening: strength, distance, borderTone } = settings;
  let { dst } = pixels;
  const next = (to: Size): { ptr: number } & Size => ({
    ptr: work.allocate(to.width * to.height * bytesPerPixel(kind) + 64),
    ...to,
  });
  if (sharpenFor !== "off" && strength > 0 && isSharpened(kind)) {
    const medium = sharpenFor;
    const sharpening = outputSharpening(
      { medium, ppi: medium === "screen" ? SCREEN_PPI : ppi, distance },
      strength,
    );
    const from = { ptr: dst, ...size };
    const to = next(size);
    await Promise.all(
      rowsOf(size.height, work.threads * 8).map(([y0, y1]) =>
        work.run(
          "sharpenOutput",
          { from, to, kind, sharpening, y0, y1 },
          { scratch: sharpenScratch(size.width, y1 - y0, sharpening.sigma), ...on },
        ),
      ),
    );
    work.free(dst);
    dst = to.ptr;
  }
  if (outer.width === size.width && outer.height === size.height) return { ...pixels, dst };
  const to = next(outer);
  const tone = BORDER_TONES[borderTone];
  await work.run("frameOutput", { from: { ptr: dst, ...size }, to, kind, tone }, on);
  work.free(dst);
  return mapPlanes(work, { ...pixels, dst: to.ptr }, outer, (at, ptr, plane) =>
    work.run(
      "frameOutput",
      {
        from: { ptr: at, ...size },
        to: { ptr, ...outer },
        kind: "bytes",
        tone: BORDER_BYTES[plane],
      },
      on,
    ),
  );
}
