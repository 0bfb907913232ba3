import type { Caption } from "../../codecs/codec";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { Layout } from "../panorama/layout";
import type { Recipe } from "../recipe/recipe";
import { namingOf, type Marks } from "./marks";
import type { Merged } from "../run/run";

/** What is written into a delivered file about where it comes from. */
export function captionOf(
  { frames, aligned, layout }: Pick<Merged, "frames" | "aligned" | "layout">,
  { kind, deliver }: Recipe,
  {
    region,
    width,
    ...marks
  }: {
    region: Rectangle;
    /** of the file, px */
    width: number;
  } & Partial<Marks>,
): Caption {
  return {
    ...namingOf(frames, deliver),
    kind,
    frames: frames.map((f) => f.info.name),
    evs: aligned ? aligned.frames.map((a) => a.ev) : frames.map(() => 0),
    ...marks,
    ...(layout ? onSphere(layout.canvas, region, width) : {}),
  };
}

/** How a delivered picture of this width lies on its whole sphere, if it is equirectangular. */
function onSphere(
  { projection, pxPerRadian, centreX, centreY, bend }: Layout["canvas"],
  region: Rectangle,
  delivered: number,
): Pick<Caption, "sphere"> {
  if (projection !== "equirectangular" || bend) return {};
  const by = delivered / region.width;
  const width = 2 * Math.PI * pxPerRadian * by;
  return {
    sphere: {
      width,
      height: width / 2,
      left: Math.max(0, width / 2 + (region.x - centreX) * by),
      top: Math.max(0, width / 4 + (region.y - centreY) * by),
      croppedWidth: delivered,
      croppedHeight: region.height * by,
    },
  };
}
