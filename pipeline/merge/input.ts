import type { ResponseCurve } from "../../core/bracket/estimateResponse";
import type { GhostPatch } from "../../core/bracket/ghostPatches";
import type { DepthGrid } from "../../core/focus/depthGrid";
import type { Suspect } from "../../core/suspects/suspect";
import type { SceneStatistics } from "../../core/tone/sceneStatistics";
import type { Matrix3 } from "../../core/math/matrix3";
import type { Sampling } from "../../core/raster/sampling";
import type { Aligned } from "../align/step";
import type { StackFrame } from "../work";
import type { LoadedFrame } from "../loadedFrame";

export interface MergeInput {
  frames: readonly StackFrame[];
  /** the reference frame is merged while this is still being found */
  aligned: Aligned | Promise<Aligned>;
  reference: number;
  /**
   * the picture's px to the reference frame's at full size, where the picture is straightened; the
   * places in `aligned` are the picture's then
   */
  fromPicture?: Matrix3;
  /** what no frame covers then is filled after the likes of the rest */
  fill?: boolean;
  downscale: number;
  loaded?: LoadedFrame[];
  patches: readonly GhostPatch[];
  /** found while the reference frame is read */
  response?: ResponseCurve | undefined | Promise<ResponseCurve | undefined>;
  /** whether to note which frame gave which pixel */
  sources?: boolean;
  /** how frames that moved are sampled */
  sampling?: Sampling;
}
/** What is known of a merged scene besides its pixels. */
export interface MergeFindings {
  aligned: Aligned;
  statistics: SceneStatistics;
  /** shares clipped in the darkest frame, and black in the brightest */
  clippedBright: number;
  clippedDark: number;
  suspects: Suspect[];
  /** share of the pixels that each frame gave most to, and last that none did */
  shares: number[];
  /** share of what the focus changes that is sharp in the merge of a focus run */
  sharp?: number;
  /** its depth, as it is drawn in space */
  depth?: DepthGrid;
}
