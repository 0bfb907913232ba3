import type { AlignedFrame } from "../../core/align/alignedFrame";
import type { FewerFrames } from "../../core/bracket/fewerFrames";
import type { RhizomeError } from "../../core/error";
import type { OutHistogram } from "../../core/finish/outHistogram";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { SoftProofTable } from "../../core/output/softProof";
import type { SpaceId } from "../../core/colour/spaces";
import type { Suspect } from "../../core/suspects/suspect";
import type { SceneStatistics } from "../../core/tone/sceneStatistics";
import { IDENTITY } from "../../core/math/matrix3";
import type { Aligned } from "../../pipeline/align/step";
import type { Layout } from "../../pipeline/panorama/layout";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { Merged } from "../../pipeline/run/run";
import type { FoundSource } from "../../pipeline/retouch/retouchedScene";
import type { Fact } from "../../pipeline/step";

/** What is known of an opened stack at the moment. */
export interface SessionState {
  phase: "working" | "ready" | "stopped" | "failed";
  doing: string;
  share: number;
  error?: RhizomeError | undefined;
  aligned?: Aligned | undefined;
  statistics?: SceneStatistics | undefined;
  /** the steps' measurements */
  facts: Fact[];
  /** of a panorama: where its frames lie */
  layout?: Layout | undefined;
  /** the levels of what is seen of the picture */
  goesOut?: OutHistogram | undefined;
  /** places to look at, worst first */
  suspects: Suspect[];
  /** share of what is seen that the paper cannot show, 0 to 1; where it is shown as on paper */
  outsidePaper?: number | undefined;
  /** grows when the tone of the picture has followed its repairs */
  settled?: number | undefined;
  /** where each of the recipe's repairs takes from */
  repairSources?: readonly FoundSource[] | undefined;
  /** share of the pixels that each of the stack's frames gave most to */
  shares?: number[] | undefined;
  /** what each frame is worth */
  fewer?: FewerFrames | undefined;
  preview?: { width: number; height: number; downscale: number } | undefined;
  fullShare?: number | undefined;
  fullReady: boolean;
  /** full size does not fit in memory: it is shown at 1/by */
  shownBy?: number | undefined;
  size: { width: number; height: number };
}

/** A part of the picture that is to be shown. */
export interface ViewRequest {
  /** region of the full-size picture to show, and how many device px a full-size px takes */
  region: Rectangle;
  zoom: number;
  recipe: Recipe;
  clipped: boolean;
  /** a paper that the merge is shown as on, if it is */
  softProof?: SoftProof | undefined;
  /** a frame to show instead of the merge, by its place in the stack */
  frame?: number;
  /** EV by which a frame is shown brighter than it is */
  lift?: number;
  /** pixels of a view that is no longer needed, to be written over */
  into?: View["pixels"] | undefined;
}

/** How a picture would be seen on paper. */
export interface SoftProof {
  /** of the codes of `space` */
  table: SoftProofTable;
  space: SpaceId;
  /** whether what the paper cannot show is marked */
  isMarked: boolean;
}

/** A part of the picture as it is shown. */
export interface View {
  pixels: Uint8ClampedArray<ArrayBuffer>;
  width: number;
  height: number;
  /** where it lies in the full-size picture */
  region: Rectangle;
  sharp: boolean;
}

/** A picture for a display that goes beyond white. */
export interface BrightView {
  picture: Blob;
  /** where it lies in the full-size picture */
  region: Rectangle;
}

/** A part of the finish in numbers. */
export interface PartFigures {
  /** of the picture, 0 to 1 */
  share: number;
  /** mean log2 light */
  meanEv: number;
  /** where a sky was looked for: how sure it is that it is one, 0 to 1 */
  skySure?: number;
}

/** The part of the picture that goes out. */
export interface Kept {
  region: Rectangle;
  /** share that no frame covers, 0 to 1 */
  empty: number;
}

/** How the frames that take part lie; the colours of a focus run go along its travel. */
export function placesOf({ aligned, layout, frames }: Merged): AlignedFrame[] {
  if (aligned)
    return aligned.frames.map((f, i) =>
      aligned.order ? { ...f, ev: aligned.order.indexOf(i) } : f,
    );
  return frames.map((_, i) => ({
    fromReference: [...IDENTITY],
    ev: i,
    residualPx: layout!.rmsPx[i]!,
    movedPx: 0,
    used: layout!.cameras[i] !== undefined,
  }));
}

/** What all frames together gain over one, as the proof lists it. */
export function coverageFacts(fewer: FewerFrames | undefined): Fact[] {
  if (!fewer) return [];
  const { all, single } = fewer;
  return [
    { what: "Range gained", value: all.rangeEv - single.rangeEv, unit: "EV", digits: 1 },
    { what: "Shadows gained", value: all.shadowDb - single.shadowDb, unit: "dB", digits: 1 },
  ];
}
