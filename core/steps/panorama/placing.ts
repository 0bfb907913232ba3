import type { PanoramaSettings } from "./step";
import type { Light } from "../../panorama/light";
import type { Canvas } from "../../panorama/projection";
import type { Suspect } from "../../suspects/suspect";
import type { Labels } from "../../panorama/seams";
import type { Geometry } from "../../panorama/geometry";

/** What of a panorama's settings decides how it is looked at, and not what is seen. */
export const VIEW = ["projection", "distance", "extent", "guides", "yaw", "pitch", "roll"] as const;
export type PanoramaView = Pick<PanoramaSettings, (typeof VIEW)[number]>;
export const viewOf = (settings: PanoramaView): PanoramaView => Object.fromEntries(VIEW.map((k) => [k, settings[k]])) as unknown as PanoramaView;

/** Where the frames lie, how their light is evened, and where the seams run. */
export interface Placing extends Geometry { light: Light; canvas: Canvas; labels: Labels; suspects: Suspect[]; /** by which the world was turned upright, row-major */ turned: number[]; /** as it was asked for */ view: PanoramaView }
