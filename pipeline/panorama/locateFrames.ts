import { TaskScope } from "../../runtime/taskScope";
import type { Geometry, PanoramaFrame } from "../../core/panorama/layout/geometry";
import type { SmallFrame } from "../../core/panorama/seams/smallFrame";
import type { Work, StackFrame } from "../work";
import type { LoadedFrame } from "../loadedFrame";
import { focalPxOf } from "../focalLength";
import type { PanoramaSettings } from "./settings";
import type { Watch } from "../../runtime/work";
import { matchScratch } from "../../core/features/matchFeatures";
import { PIXELS_BYTES } from "../../core/panorama/layout/pixels";
import { median } from "../../core/math/median";

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
  await using scope = new TaskScope(work);
  const drawn = await lensOf(scope, frames, loaded, downscale, settings, signal ? { signal } : {});
  const on = signal ? { signal } : {};
  const planes: number[] = [];
  const stated = frames.map((f) => focalPxOf(f.info));
  const pairs = frames.flatMap((_, a) => frames.slice(a + 1).map((_f, k) => ({ a, b: a + 1 + k })));
  const many = scope.threads * 4;
  const locate = async (lens: readonly (number | undefined)[], from: number): Promise<Located> => {
    let done = 0;
    const seen = await Promise.all(
      loaded.map(async (frame, i) => {
        const n = frame.width * frame.height;
        const r = await scope.run(
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
          scope.run(
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
    const solving = scope.run(
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
  for (const h of loaded) planes.push(scope.allocate(h.width * h.height * 8 + 128));
  let found = await locate(stated, 0);
  const lens = found.geometry.cameras.find((c) => c !== undefined)?.focalPx;
  // a lens that no file tells of is known now: what its borders drew too large to match may match
  // after all
  if (lens !== undefined && found.geometry.leftOut.length && stated.some((f) => f === undefined)) {
    const again = await locate(
      stated.map((f) => f ?? lens),
      0.5,
    );
    if (again.geometry.leftOut.length < found.geometry.leftOut.length) found = again;
  }
  return found;
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
