import * as v from "valibot";
import { LENS_KINDS } from "../../core/panorama/camera";
import { range } from "../../core/math/range";
import { PROJECTIONS } from "../../core/panorama/canvas/projection";
import { GuideSchema } from "../../core/panorama/level/straighten";
import { MaskSchema } from "../../core/panorama/seams/masks";
import { OwnTieSchema, DroppedTieSchema } from "../../core/panorama/ties/ties";
import { planeBytesOf } from "../../core/raster/accumulator";
import { defineStep } from "../step";
import type { Work } from "../work";
import type { Watch } from "../../runtime/work";
import type { Scene } from "../merge/scene";
import type { Layout } from "./layout";
import { renderPanorama, type PanoramaInput } from "./renderPanorama";

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
 * What joining frames in so large a part of the canvas takes, bytes: its pyramids, a piece of a
 * frame, and frames being read.
 */
export const joiningBytes = ({ width, height }: { width: number; height: number }): number =>
  planeBytesOf(width, height) * 5.4 + Math.min(450e6, width * height * 40);

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
  key: ({ panorama }: { panorama: PanoramaSettings }) => panorama,
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
