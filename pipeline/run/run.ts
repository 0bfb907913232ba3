import type { SceneStatistics } from "../../core/tone/sceneStatistics";
import type { DepthGrid } from "../../core/focus/depthGrid";
import type { Suspect } from "../../core/suspects/suspect";
import type { ResultCache } from "../../runtime/resultCache";
import type { Priority, Watch } from "../../runtime/work";
import type { Aligned } from "../align/step";
import type { Coming } from "../deliver/step";
import type { Scene } from "../merge/scene";
import type { Layout } from "../panorama/layout";
import type { Threads } from "../pool";
import type { Recipe } from "../recipe/recipe";
import type { Fact } from "../step";
import type { StackFrame } from "../work";
import type { HeldFrames } from "./heldFrames";

export interface RunOptions extends Watch {
  /**
   * How large the merge comes: as it is worked on; at full size, in bands where it does not fit in
   * memory whole; or at 1/n of full size, at once.
   */
  scale: "work" | "full" | number;
  /** before or after what else is waiting for the threads */
  priority?: Priority;
  /** whether to note which frame gave which pixel, as maps and shares need it */
  sources?: boolean;
  /** what stays of the stack between runs; without it nothing does */
  held?: HeldFrames;
  /** where this run's merge may lie, and is kept */
  keptIn?: ResultCache;
  /** where the frames' places may have been found before */
  placesIn?: ResultCache;
  /** a clock, ms */
  now?: () => number;
}

/** One run as its parts see it. */
export interface Run<R extends Recipe = Recipe> extends RunOptions {
  /** for the run's own tasks and memory */
  threads: Threads;
  /** for what happens after the run, on what came of it */
  caller: Threads;
  /** those that take part, prepared */
  frames: readonly StackFrame[];
  recipe: R;
  held: HeldFrames;
  /** whether what is held goes with the run */
  heldForRun: boolean;
  /** reduction from full size to the size one works at, at which frames are placed */
  workDownscale: number;
  now: () => number;
}

/** How the frames lie: against the reference frame, or round the camera. */
export interface Placed {
  aligned?: Aligned;
  layout?: Layout;
}

/** What was measured of a merge. */
export interface Findings {
  statistics: SceneStatistics;
  /** places that deserve a look, worst first */
  suspects: Suspect[];
  /** share of the picture from each of the frames that take part, and last from none */
  shares: number[];
  facts: Fact[];
  /** of a focus run */
  depth?: DepthGrid;
}

/** A merged stack. The scene is its owner's to release. */
export interface Merged extends Placed {
  /** those that take part, prepared */
  frames: readonly StackFrame[];
  scene: Scene;
  /** of the scene */
  downscale: number;
  /** of the whole picture, px */
  size: { width: number; height: number };
  /** the picture at full size, where the scene is a smaller one */
  coming?: Coming;
  /** looks for what may have gone wrong, as long as the scene is there */
  suspects(): Promise<readonly Suspect[]>;
  /** measures all there is to tell, as long as the scene is there */
  findings(): Promise<Findings>;
  /** when the frames were read, and when they had their places, ms */
  readAt: number;
  placedAt: number;
}

/**
 * What kinds of stacks do with their frames until they are one scene.
 *
 * @template R  the recipes that it works by
 */
export interface SceneMaker<R extends Recipe = Recipe> {
  /** the merge as an earlier run kept it */
  recall(run: Run<R>): Promise<Merged | undefined>;
  make(run: Run<R>): Promise<Merged>;
  /** keeps it for later runs */
  keep(run: Run<R>, merged: Merged): Promise<void>;
  /** bytes that merging at once at 1/downscale of full size takes at most */
  bytesAt(merged: Pick<Merged, "frames" | "size">, recipe: R, downscale: number): number;
}
