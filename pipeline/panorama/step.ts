import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { namesOf, exposureEv, type FrameInfo } from "../../core/frame/frame";
import { planeBytesOf } from "../../core/raster/accumulator";
import { BLEND_MARGIN } from "../../core/panorama/blend/blend";
import { matchScratch } from "../../core/features/matchFeatures";
import type { SmallFrame } from "../../core/panorama/seams/smallFrame";
import { MaskSchema, type Part } from "../../core/panorama/seams/masks";
import { DroppedTieSchema, OwnTieSchema } from "../../core/panorama/ties/ties";
import { GuideSchema, worldTurn } from "../../core/panorama/level/straighten";
import { range } from "../../core/math/range";
import { PROJECTIONS, type Wanted } from "../../core/panorama/canvas/projection";
import { mapOf, seamScratch } from "../../core/panorama/seams/seams";
import { PIXELS_BYTES } from "../../core/panorama/layout/pixels";
import type { findTie } from "../../core/panorama/ties/findTie";
import { LENS_KINDS, rotated } from "../../core/panorama/camera";
import type { Geometry, PanoramaFrame, TiePair } from "../../core/panorama/layout/geometry";
import type { Scene } from "../merge/scene";
import { bendOf, emptyIs, type EdgesSettings } from "../edges/step";
import { defineStep } from "../step";
import type { LoadedFrame, StackFrame, Work } from "../work";
import type { Watch } from "../../runtime/work";
import { viewOf, type Layout } from "./layout";
import { bandsOf, renderPanorama, WHOLE_PX, type PanoramaInput } from "./renderPanorama";
import { median } from "../../core/math/median";

const schema = v.object({
  /** from one point, the camera turned; or along something flat, from many */
  taken: v.picklist(["point", "flat"]),
  /**
   * how the lens draws; `auto` is rectilinear unless the file names a fisheye lens or the frames
   * show its circle
   */
  lens: v.picklist(["auto", ...LENS_KINDS]),
  /** radius of the image circle, in shares of the frame's shorter side; 0 where there is none */
  circle: v.union([v.literal("auto"), range(0, 1)]),
  /** all frames equally bright, or a steady change of exposure kept without its steps */
  light: v.picklist(["even", "ramp"]),
  projection: v.picklist(["auto", ...PROJECTIONS]),
  /** of a Panini picture: 0 is rectilinear, 1 what is usual */
  distance: range(0, 1.5),
  /** degrees to the left, right, above and below the middle of the view */
  extent: v.union([
    v.literal("auto"),
    v.tuple([range(0.5, 180), range(0.5, 180), range(0.5, 90), range(0.5, 90)]),
  ]),
  width: v.union([
    v.literal("auto"),
    v.pipe(v.number(), v.integer(), v.minValue(64), v.maxValue(60000)),
  ]),
  /**
   * lines said to be level, vertical or straight; then degrees set manually: to the right, up, clockwise
   */
  guides: v.pipe(v.array(GuideSchema), v.maxLength(50)),
  masks: v.pipe(v.array(MaskSchema), v.maxLength(500)),
  /** whether what is hidden ties frames all the same */
  maskedTies: v.picklist(["keep", "drop"]),
  /** whether frames that show nothing but what another shows take part */
  duplicates: v.picklist([
    "drop",
    "use",
  ]) /** ties set manually, and found ones that do not count */,
  ties: v.pipe(v.array(OwnTieSchema), v.maxLength(500)),
  dropped: v.pipe(v.array(DroppedTieSchema), v.maxLength(2000)),
  yaw: range(-180, 180),
  pitch: range(-90, 90),
  roll: range(-180, 180),
});
export type PanoramaSettings = v.InferOutput<typeof schema>;

/**
 * The canvas takes at most so many pixels: what the memory holds as a file in the making. Filled
 * borders take their texture from anywhere, and so need it whole.
 */
const MOST_PX = 200e6;
const FILLED_MOST_PX = WHOLE_PX;

/**
 * What joining frames in so large a part of the canvas takes, bytes: its pyramids, a piece of a
 * frame, and frames being read.
 */
export const joiningBytes = ({ width, height }: { width: number; height: number }): number =>
  planeBytesOf(width, height) * 5.4 + Math.min(450e6, width * height * 40);

/** The focal length in px that a file tells. */
export function focalPxOf({ width, height, exif }: FrameInfo): number | undefined {
  const long = Math.max(width, height);
  return exif.focalLength35 && exif.focalLength35 > 4
    ? (exif.focalLength35 / 36) * long
    : undefined;
}

/** Finds how the frames lie round the camera and joins them on one canvas. */
export const panoramaStep = defineStep({
  settings: {
    schema,
    defaults: {
      taken: "point",
      lens: "auto",
      circle: "auto",
      light: "even",
      projection: "auto",
      distance: 1,
      extent: "auto",
      width: "auto",
      guides: [],
      masks: [],
      maskedTies: "keep",
      duplicates: "drop",
      ties: [],
      dropped: [],
      yaw: 0,
      pitch: 0,
      roll: 0,
    },
  },
  plan(frames, _settings, downscale) {
    const px =
      Math.min(
        MOST_PX,
        frames.reduce((s, f) => s + f.width * f.height, 0),
      ) /
      downscale ** 2;
    const width = Math.round(Math.sqrt(px * 2));
    const height = Math.round(px / width);
    const band = { width, height: bandsOf({ width, height })[0]!.y1 };
    return {
      width,
      height,
      margin: BLEND_MARGIN,
      peakBytes: joiningBytes(band),
      heldBytes: planeBytesOf(band.width, band.height) * 4,
    };
  },
  run: (
    work: Work,
    input: PanoramaInput & { fill: boolean },
    _settings: PanoramaSettings,
    watch: Watch,
  ): Promise<Scene> => renderPanorama(work, input, watch),
  facts: ({ cameras, rmsPx, canvas, levelled }: Layout) => {
    const placed = cameras.filter((c) => c !== undefined);
    return [
      { what: "Frames placed", value: placed.length, unit: "" as const, digits: 0 as const },
      {
        what: "Tie points, worst frame",
        value: Math.max(0, ...rmsPx),
        unit: "px" as const,
        digits: 2 as const,
      },
      {
        what: "Focal length",
        value: placed[0]?.focalPx ?? 0,
        unit: "px" as const,
        digits: 0 as const,
      },
      ...(levelled
        ? [
            {
              what: "Level, known to",
              value: levelled.degrees,
              unit: "\u00b0" as const,
              digits: 2 as const,
            },
          ]
        : []),
      {
        what: "Size",
        value: (canvas.width * canvas.height) / 1e6,
        unit: "MP" as const,
        digits: 1 as const,
      },
    ];
  },
});

/**
 * Frames that have found their place, if any has, what is known of their lens, and their small
 * looks.
 */
export interface Located {
  geometry: Geometry;
  frames: PanoramaFrame[];
  small: SmallFrame[];
  /** fine detail of each, as it was read */
  detail: number[];
}

/**
 * Finds how the frames lie: matched each with each, turned until their ties meet.
 *
 * @param held  the frames at 1/downscale of their size
 * @param meanwhile  called when all that is left to do is done by one thread
 */
export async function locateFrames(
  work: Work,
  frames: readonly StackFrame[],
  loaded: readonly LoadedFrame[],
  downscale: number,
  settings: Pick<PanoramaSettings, "taken" | "lens" | "circle">,
  { progress, signal }: Watch,
  meanwhile: () => void = () => undefined,
): Promise<Located> {
  const drawn = await lensOf(work, frames, loaded, downscale, settings, signal ? { signal } : {});
  const on = signal ? { signal } : {};
  const planes: number[] = [];
  const stated = frames.map((f) => focalPxOf(f.info));
  const pairs = frames.flatMap((_, a) => frames.slice(a + 1).map((_f, k) => ({ a, b: a + 1 + k })));
  const many = work.threads * 4;
  const locate = async (lens: readonly (number | undefined)[], from: number): Promise<Located> => {
    let done = 0;
    const seen = await Promise.all(
      loaded.map(async (frame, i) => {
        const n = frame.width * frame.height;
        const r = await work.run(
          "features",
          { frame, planes: planes[i]!, scale: downscale, focalPx: lens[i], ...drawn },
          { scratch: n * 20 + (1 << 22), ...on },
        );
        progress(
          from + ((0.7 - from) * 0.7 * ++done) / loaded.length,
          `Finding corners, ${done} of ${loaded.length}`,
        );
        return r;
      }),
    );
    const features = seen.map((s) => s.features);
    const parts = Array.from({ length: Math.min(pairs.length, many) }, (_, p) =>
      pairs.filter((_q, i) => i % many === p),
    );
    const matches = (
      await Promise.all(
        parts.map((part) =>
          work.run(
            "match",
            { pairs: part.map(({ a, b }) => ({ a, b, A: features[a]!, B: features[b]! })) },
            { scratch: matchScratch(Math.max(...features.map((f) => f.count))), ...on },
          ),
        ),
      )
    )
      .flat()
      .sort((p, q) => p.a - q.a || p.b - q.b);
    progress(0.7, "Laying out frames");
    const known = frames.map((f, i): PanoramaFrame => ({
      width: f.info.width,
      height: f.info.height,
      focalPx: stated[i],
      ...drawn,
    }));
    const solving = work.run(
      "solve",
      {
        frames: known,
        features,
        scale: downscale,
        matches,
        flat: settings.taken === "flat",
        edges: seen.map((s) => s.edges),
        planes: loaded.map((h, i) => ({
          log: planes[i]!,
          confidence: planes[i]! + h.width * h.height * 4,
          w: h.width,
          h: h.height,
        })),
      },
      { scratch: PIXELS_BYTES, ...on },
    );
    meanwhile();
    const geometry = await solving;
    return {
      geometry,
      frames: known,
      small: seen.map((s) => s.small),
      detail: seen.map((s) => s.detail),
    };
  };
  try {
    for (const h of loaded) planes.push(work.allocate(h.width * h.height * 8 + 128));
    let found = await locate(stated, 0);
    const lens = found.geometry.cameras.find((c) => c !== undefined)?.focalPx;
    // a lens that no file tells of is known now: what its borders drew too large to match may match
    // after all
    if (
      lens !== undefined &&
      found.geometry.leftOut.length &&
      stated.some((f) => f === undefined)
    ) {
      const again = await locate(
        stated.map((f) => f ?? lens),
        0.5,
      );
      if (again.geometry.leftOut.length < found.geometry.leftOut.length) found = again;
    }
    return found;
  } catch (e) {
    await work.idle();
    throw e;
  } finally {
    for (const p of planes) work.free(p);
  }
}

/** How the frames' lens draws, as it is said, named by the files, or seen by its circle. */
async function lensOf(
  work: Work,
  frames: readonly StackFrame[],
  loaded: readonly LoadedFrame[],
  downscale: number,
  { lens, circle }: Pick<PanoramaSettings, "lens" | "circle">,
  on: Pick<Watch, "signal">,
): Promise<Pick<PanoramaFrame, "lens" | "circle" | "centre">> {
  if (lens === "rectilinear") return {};
  const { width, height } = frames[0]!.info;
  const found =
    circle !== 0
      ? (
          await Promise.all(
            loaded.map((frame) =>
              work.run("imageCircle", { frame, scale: downscale }, { scratch: 1 << 16, ...on }),
            ),
          )
        ).filter((r) => r !== undefined)
      : [];
  // the lens is one, and what is dark in a frame is another thing in each
  const middle = (of: "x" | "y" | "radius"): number => median(found.map((c) => c[of]));
  const seen = found.length > loaded.length / 2;
  let radius: number;
  if (circle !== "auto") radius = circle * Math.min(width, height);
  else if (seen) radius = middle("radius");
  else radius = 0;
  if (lens === "auto" && !radius && !frames.some((f) => /fish-?eye/i.test(f.info.exif.lens ?? "")))
    return {};
  return {
    lens: lens === "auto" ? "equisolid" : lens,
    ...(radius ? { circle: radius } : {}),
    ...(seen && frames.every((f) => f.info.width === width && f.info.height === height)
      ? { centre: [middle("x"), middle("y")] as const }
      : {}),
  };
}

const isOf =
  (name: string) =>
  (f: StackFrame): boolean =>
    namesOf(f).includes(name);
/** What is hidden in each frame. */
const hiddenIn = (frames: readonly StackFrame[], masks: PanoramaSettings["masks"]): Part[][] =>
  frames.map((f) => masks.filter((m) => m.on && isOf(m.frame)(f)));

/**
 * The frames' places once more with the ties that were set or removed manually and the lines drawn
 * along what is straight; what was found stays as it is where there are none.
 */
async function retied(
  work: Work,
  frames: readonly StackFrame[],
  { geometry, frames: known, small }: Located,
  { ties, dropped, masks, maskedTies, guides }: PanoramaSettings,
  on: Pick<Watch, "signal">,
): Promise<Geometry> {
  const at = (name: string): number => frames.findIndex(isOf(name));
  const placed = <T extends { a: string; b: string }>(list: readonly T[]) =>
    list
      .map((t) => ({ ...t, a: at(t.a), b: at(t.b) }))
      .filter((t) => t.a >= 0 && t.b >= 0 && t.a !== t.b);
  const edits = {
    added: placed(ties),
    dropped: placed(dropped),
    hidden: maskedTies === "drop" ? hiddenIn(frames, masks) : [],
  };
  const straight = guides.filter((g) => g.kind === "straight");
  if (
    !edits.added.length &&
    !edits.dropped.length &&
    !edits.hidden.some((h) => h.length) &&
    !straight.length
  )
    return geometry;
  return work.run(
    "retie",
    { frames: known, geometry, edits, straight, small: straight.length ? small : [] },
    on,
  );
}

/**
 * The exact place in frame b of what was pointed at in frame a and b (px of both), or undefined if
 * nothing there fits.
 *
 * @param held  the two at 1/downscale of their size
 */
export async function placeTie(
  work: Work,
  loaded: readonly [LoadedFrame, LoadedFrame],
  downscale: number,
  cameras: Parameters<typeof findTie>[3],
  point: TiePair["points"][number],
  on: Pick<Watch, "signal">,
): Promise<TiePair["points"][number] | undefined> {
  return work.run(
    "findTie",
    { frames: [...loaded], scale: downscale, cameras, point },
    { scratch: loaded.reduce((n, h) => n + h.width * h.height * 28, 1 << 22), ...on },
  );
}

function nothingPlaced(
  count: number,
  { taken, ties }: Pick<PanoramaSettings, "taken" | "ties">,
): RhizomeError {
  let why = "";
  if (count === 1) why = "; a panorama needs at least two";
  else if (ties.length === 1) why = ", and one tie holds no frame: two frames need two ties";
  return new RhizomeError(
    "no-overlap",
    `No two of the ${count} frames were found to show the same place${why}.`,
    `check that neighbours share a quarter of their width${taken === "flat" ? ", and that what they show is flat" : " and something with texture; if the camera moved along something flat, say so (Camera: Moved)"}; or set ties manually`,
  );
}

/** Says of which frames other places explain the matches as well, and against which frames. */
function doubtWarning(
  frames: readonly StackFrame[],
  { doubtful = [] }: Geometry,
): Geometry["warnings"] {
  if (!doubtful.length) return [];
  const name = (i: number): string => frames[i]!.info.name;
  const against = [...new Set(doubtful.flatMap((d) => d.against))].map(name);
  return [
    {
      code: "layout-doubtful",
      message: `Where ${doubtful.map((d) => name(d.frame)).join(", ")} ${doubtful.length > 1 ? "lie" : "lies"} is in doubt: the scene repeats itself, and matches with ${against.join(", ")} would have ${doubtful.length > 1 ? "them" : "it"} elsewhere as well; check the ties, or set some by hand`,
    },
  ];
}

/** The canvas that the settings ask for. */
export const wantedCanvas = (
  { taken, projection, distance, extent, width }: PanoramaSettings,
  edges: EdgesSettings,
): Wanted => ({
  projection: projection === "auto" && taken === "flat" ? "rectilinear" : projection,
  distance,
  ...(extent === "auto" ? {} : { extent }),
  ...(width === "auto" ? {} : { width }),
  most: emptyIs(edges) === "extend" ? FILLED_MOST_PX : MOST_PX,
});

/**
 * Turns located frames upright as they are asked to be, evens their light, lays out the canvas and
 * finds the seams.
 *
 * @throws RhizomeError `no-overlap` when no two frames fit; `nothing-shown` when the view looks
 *   past all frames
 */
export async function composePanorama(
  work: Work,
  frames: readonly StackFrame[],
  located: Located,
  { panorama, edges }: { panorama: PanoramaSettings; edges: EdgesSettings },
  on: Pick<Watch, "signal">,
): Promise<Layout> {
  const { masks } = panorama;
  const { small } = located;
  const geometry = await retied(work, frames, located, panorama, on);
  if (geometry.leftOut.length === frames.length) throw nothingPlaced(frames.length, panorama);
  const hidden = hiddenIn(frames, masks);
  const at = (name: string): number => frames.findIndex(isOf(name));
  const tied = panorama.ties.flatMap((t) => [at(t.a), at(t.b)]);
  // what somebody has worked on stays
  const duplicates =
    panorama.duplicates === "use"
      ? []
      : await work.run(
          "duplicates",
          {
            cameras: geometry.cameras,
            small,
            detail: located.detail,
            kept: frames.map((_, i) => hidden[i]!.length > 0 || tied.includes(i)),
          },
          on,
        );
  const by = worldTurn(panorama);
  const cameras = geometry.cameras.map((c, i) =>
    duplicates.some((d) => d.frame === i) ? undefined : c && rotated(c, by),
  );
  const { light, canvas } = await work.run(
    "layOut",
    {
      cameras,
      small,
      evs: frames.map((f) => exposureEv(f.info.exif)),
      ramp: panorama.light === "ramp",
      wanted: wantedCanvas(panorama, edges),
    },
    on,
  );
  const sights = await Promise.all(
    cameras.map(
      (camera, i) =>
        camera &&
        work.run(
          "sight",
          {
            camera,
            canvas,
            image: small[i]!,
            light: { gain: light.gains[i]!, vignetting: light.vignetting },
            masks: hidden[i]!,
          },
          on,
        ),
    ),
  );
  const { unbent, ...composed } = await work.run(
    "compose",
    {
      cameras,
      canvas,
      light,
      sights,
      small,
      pairs: geometry.pairs,
      doubtful: geometry.doubtful ?? [],
      bend: bendOf(edges),
      filled: emptyIs(edges) === "extend",
      masks: hidden,
    },
    { scratch: seamScratch(mapOf(canvas)), ...on },
  );
  if (!composed.labels.of.some((label) => label > 0))
    throw new RhizomeError(
      "nothing-shown",
      "No frame reaches into the panorama's view as it is turned and cut.",
      "take the borders back to all that is covered, or turn the view back to the frames",
    );
  return {
    ...geometry,
    cameras,
    duplicates,
    turned: by,
    view: viewOf(panorama),
    light,
    ...composed,
    warnings: [
      ...geometry.warnings,
      ...doubtWarning(frames, geometry),
      ...(unbent
        ? [
            {
              code: "not-bent",
              message:
                "too much is missing for the picture to be bent to a rectangle; it was cropped",
            },
          ]
        : []),
    ],
  };
}
