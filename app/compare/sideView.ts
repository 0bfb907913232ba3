import type { Rectangle } from "../../core/raster/largestRectangle";
import type { View } from "../work/sessionState";
import type { Side } from "./useSides";

/** A region of a side as it goes out; undefined while it is not merged, or its session has ended. */
export const sideView = (
  { session, recipe, frame }: Side,
  region: Rectangle,
  zoom: number,
): Promise<View | undefined> =>
  session
    .view({ region, zoom, recipe, clipped: false, ...(frame === undefined ? {} : { frame }) })
    .catch(() => undefined);
