import { straightEdges } from "../../core/panorama/level/findLevel";
import { makeSmallFrame } from "../../core/panorama/seams/smallFrame";
import { findUpright, UPRIGHT_EDGE, type Upright } from "../../core/straighten/findUpright";
import type { LoadedFrame } from "../loadedFrame";
import type { StepContext } from "../stepContext";

/** What straightening asks of a worker. */
export const straightenTasks = {
  /** How the camera was held, by the edges of a frame; its lens is given at full size. */
  findUpright(
    { heap }: StepContext,
    a: {
      frame: LoadedFrame;
      scale: number;
      lens: { width: number; height: number; focalPx: number };
    },
  ): Upright | undefined {
    const small = makeSmallFrame(heap, a.frame, a.scale, UPRIGHT_EDGE);
    const edges = straightEdges({ ...small, scale: 1 });
    const { width, height } = small;
    return findUpright(edges, {
      width,
      height,
      focalPx: (a.lens.focalPx * width) / a.lens.width,
    });
  },
};
