import { WHOLE_PX } from "./renderPanorama";
import type { StackFrame, Work } from "../work";
import { namesOf, exposureEv } from "../../core/frame/frame";
import type { PanoramaSettings } from "./settings";
import type { Part } from "../../core/panorama/seams/masks";
import type { Located } from "./locateFrames";
import type { Watch } from "../../runtime/work";
import type { Geometry } from "../../core/panorama/layout/geometry";
import { RhizomeError } from "../../core/error";
import { type EdgesSettings, emptyIs, bendOf } from "../edges/step";
import type { Wanted } from "../../core/panorama/canvas/projection";
import { type Layout, viewOf } from "./layout";
import { worldTurn } from "../../core/panorama/level/straighten";
import { rotated } from "../../core/panorama/camera";
import { seamScratch, mapOf } from "../../core/panorama/seams/seams";

/**
 * The canvas takes at most so many pixels: what the memory holds as a file in the making. Filled
 * borders take their texture from anywhere, and so need it whole.
 */
export const MOST_PX = 200e6;
const FILLED_MOST_PX = WHOLE_PX;

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
