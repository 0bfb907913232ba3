import * as v from "valibot";
import { range } from "../../core/math/range";
import { FrameGuideSchema } from "../../core/straighten/guidedTurn";
import { choice, data, number, type Values } from "../settings/fields";

const TURNED = { kinds: ["bracket", "focus"] } as const;
const turn = { unit: "°", step: 0.1, digits: 1, signed: true, default: 0, when: TURNED } as const;

/** How a picture is set upright, and which part of the turned frame it shows. */
export const straightenFields = {
  upright: data({
    label: "Upright",
    help: "Makes verticals vertical by the edges of walls, doors and windows: off; auto, which never turns far; full; or an amount from 0 to 1.",
    schema: v.union([v.picklist(["off", "auto", "full"]), range(0, 1)]),
    default: "off",
    when: TURNED,
  }),
  guides: data({
    label: "Guides",
    help: "Lines said to be level or vertical, by their ends in shares of the reference frame's width and height. With any of them edges are not asked.",
    schema: v.pipe(v.array(FrameGuideSchema), v.maxLength(50)),
    default: [],
    when: TURNED,
  }),
  roll: number({
    label: "Roll",
    help: "Turns the picture clockwise.",
    min: -45,
    max: 45,
    usual: [-10, 10],
    ...turn,
  }),
  pitch: number({
    label: "Pitch",
    help: "Moves the picture up, as if the camera had been tilted down.",
    min: -30,
    max: 30,
    usual: [-15, 15],
    ...turn,
  }),
  yaw: number({
    label: "Yaw",
    help: "Moves the picture to the right, as if the camera had been turned to the left.",
    min: -40,
    max: 40,
    usual: [-20, 20],
    ...turn,
  }),
  focal: data({
    label: "Focal length",
    help: "Of the lens, mm on 35 mm film: it says how far things are drawn out when the picture is turned. Auto takes it from the file.",
    schema: v.union([v.literal("auto"), range(8, 1200)]),
    default: "auto",
    when: TURNED,
  }),
  extent: choice({
    label: "View",
    help: "Middle keeps the middle as large as it was taken and the largest part that has no empty corners; All makes the picture smaller until all of the frame is in it.",
    options: [
      { value: "filled", text: "Middle" },
      { value: "whole", text: "All" },
    ],
    default: "filled",
    when: TURNED,
    change: "View of the straightened picture",
  }),
};
export type StraightenSettings = Values<typeof straightenFields>;

/** Whether a picture is turned at all. */
export const isStraightened = ({
  upright,
  guides,
  roll,
  pitch,
  yaw,
}: StraightenSettings): boolean =>
  asksForUpright({ upright, guides }) ||
  guides.length > 0 ||
  roll !== 0 ||
  pitch !== 0 ||
  yaw !== 0;

/** Whether the edges in the picture say how it is turned. */
export const asksForUpright = ({
  upright,
  guides,
}: Pick<StraightenSettings, "upright" | "guides">): boolean =>
  upright !== "off" && upright !== 0 && guides.length === 0;

/** What of the settings the straightened picture depends on. */
export const straightenKey = (settings: StraightenSettings): unknown[] =>
  isStraightened(settings)
    ? [
        settings.guides.length ? settings.guides : settings.upright,
        settings.roll,
        settings.pitch,
        settings.yaw,
        settings.focal,
        settings.extent,
      ]
    : [];
