import type { Light } from "../../panorama/light";
import type { Canvas } from "../../panorama/projection";
import type { Suspect } from "../../suspects/suspect";
import type { Labels } from "../../panorama/seams";
import type { Geometry } from "../../panorama/geometry";

/** Where the frames lie, how their light is evened, and where the seams run. */
export interface Placing extends Geometry { light: Light; canvas: Canvas; labels: Labels; suspects: Suspect[]; /** by which the world was turned upright, row-major */ turned: number[] }
