import type { Workspace } from "../state/workspace";
import type { Tool } from "./tool";

/**
 * A drag of a panorama's whole view. How the view will look is drawn over the picture in any case
 * while it changes, and takes the pointer there.
 */
export const turnTool = (_: Workspace): Tool => ({});
