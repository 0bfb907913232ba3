import * as v from "valibot";
import { LENS_KINDS } from "../../core/panorama/camera";
import { range } from "../../core/math/range";
import { PROJECTIONS } from "../../core/panorama/canvas/projection";
import { GuideSchema } from "../../core/panorama/level/straighten";
import { MaskSchema } from "../../core/panorama/seams/masks";
import { OwnTieSchema, DroppedTieSchema } from "../../core/panorama/ties/ties";
import { choice, data, number, percent, settingsOf } from "../settings/fields";

const LENSES: Record<(typeof LENS_KINDS)[number], string> = {
  rectilinear: "Rectilinear",
  equidistant: "Fisheye, equidistant",
  equisolid: "Fisheye, equisolid",
};
const PROJECTION_NAMES: Record<(typeof PROJECTIONS)[number], string> = {
  rectilinear: "Rectilinear",
  cylindrical: "Cylindrical",
  equirectangular: "Equirectangular",
  stereographic: "Stereographic",
  mercator: "Mercator",
  panini: "Panini",
};
const turn = { unit: "°", step: 0.1, digits: 1, default: 0 };

/** How a panorama's frames were taken, and the canvas that they are joined on. */
export const panoramaSettings = settingsOf({
  taken: choice({
    label: "Camera",
    help: "Rotated: all frames from one point. Moved: from many points in front of something flat, such as a facade, a floor or a painting.",
    options: [
      { value: "point", text: "Rotated" },
      { value: "flat", text: "Moved" },
    ],
    default: "point",
    change: "How it was taken",
  }),
  lens: choice({
    label: "Lens",
    help: "How the lens draws. A fisheye lens is known by its name in the file or by its circle in the frames.",
    options: [
      { value: "auto", text: "By the frames" },
      ...LENS_KINDS.map((value) => ({ value, text: LENSES[value] })),
    ],
    default: "auto",
  }),
  circle: data({
    label: "Image circle",
    help: "Its radius, in shares of the frame's shorter side; 0 where the lens fills the frame; auto is as found. What lies outside is not used.",
    schema: v.union([v.literal("auto"), range(0, 1)]),
    default: "auto",
  }),
  light: choice({
    label: "Light",
    help: "Even makes all frames equally bright. Ramp keeps a steady change of exposure from one side to the other, without the steps between frames.",
    options: [
      { value: "even", text: "Even" },
      { value: "ramp", text: "Ramp" },
    ],
    default: "even",
    change: "Light of the frames",
  }),
  projection: choice({
    label: "Projection",
    help: "How the view is laid out on the flat picture.",
    options: [
      { value: "auto", text: "By field of view" },
      ...PROJECTIONS.map((value) => ({ value, text: PROJECTION_NAMES[value] })),
    ],
    default: "auto",
  }),
  distance: percent({
    label: "Distance",
    help: "Projection distance: 0 % keeps all lines straight, 100 % is usual, more squeezes the sides.",
    min: 0,
    max: 1.5,
    default: 1,
    when: { settings: { "panorama.projection": ["panini", "auto"] } },
  }),
  extent: data({
    label: "Borders of the view",
    help: "Degrees to the left, right, above and below the middle of the view; auto is all that is covered.",
    schema: v.union([
      v.literal("auto"),
      v.tuple([range(0.5, 180), range(0.5, 180), range(0.5, 90), range(0.5, 90)]),
    ]),
    default: "auto",
  }),
  width: data({
    label: "Width",
    help: "Of the whole picture, px; auto is as large as no frame is enlarged.",
    schema: v.union([
      v.literal("auto"),
      v.pipe(v.number(), v.integer(), v.minValue(64), v.maxValue(60000)),
    ]),
    default: "auto",
  }),
  guides: data({
    label: "Guides",
    help: "Lines said to be level, vertical or straight.",
    schema: v.pipe(v.array(GuideSchema), v.maxLength(50)),
    default: [],
  }),
  masks: data({
    label: "Masks",
    help: "Parts of frames that are hidden, or wanted.",
    schema: v.pipe(v.array(MaskSchema), v.maxLength(500)),
    default: [],
  }),
  maskedTies: choice({
    label: "Hidden parts",
    help: "Whether what is hidden ties frames all the same.",
    options: [
      { value: "keep", text: "Tie frames" },
      { value: "drop", text: "Tie nothing" },
    ],
    default: "keep",
  }),
  duplicates: choice({
    label: "Taken twice",
    help: "Frames that show the same as another, equally exposed. If used, they can fill in where something is hidden in the other.",
    options: [
      { value: "drop", text: "Left out" },
      { value: "use", text: "Used" },
    ],
    default: "drop",
    change: "Frames taken twice",
  }),
  ties: data({
    label: "Own ties",
    help: "Tie points that were set manually.",
    schema: v.pipe(v.array(OwnTieSchema), v.maxLength(500)),
    default: [],
  }),
  dropped: data({
    label: "Removed ties",
    help: "Tie points that were found and do not count.",
    schema: v.pipe(v.array(DroppedTieSchema), v.maxLength(2000)),
    default: [],
  }),
  yaw: number({
    label: "Yaw",
    help: "Moves the picture to the right.",
    min: -180,
    max: 180,
    ...turn,
  }),
  pitch: number({
    label: "Pitch",
    help: "Moves the picture up.",
    min: -90,
    max: 90,
    usual: [-45, 45],
    ...turn,
  }),
  roll: number({
    label: "Roll",
    help: "Turns the picture clockwise.",
    min: -180,
    max: 180,
    usual: [-45, 45],
    ...turn,
  }),
});
export type PanoramaSettings = v.InferOutput<typeof panoramaSettings.schema>;
