import {
  estimateResponse,
  isBetter,
  respond,
  type ResponseCurve,
} from "../../core/bracket/estimateResponse";
import { alignStack } from "../../core/align/alignStack";
import { type AlignOptions } from "../../core/align/alignedFrame";
import { focusOrder } from "../../core/focus/focusOrder";
import { warpedSharpness, lookAt } from "../../core/focus/frameSignature";
import { readRun, type AlignedRun } from "../../core/focus/readRun";
import { linkInLight, registerNeighbours, type RunPair } from "../../core/focus/runLinks";
import { type SharpMap } from "../../core/focus/sharpMap";
import type { LoadedFrame } from "../loadedFrame";
import type { StepContext } from "../stepContext";

/** What aligning frames asks of a worker. */
export const alignTasks = {
  response(
    { heap }: StepContext,
    a: { frames: LoadedFrame[]; evs: number[] },
  ): ResponseCurve | undefined {
    const found = estimateResponse(
      a.frames.map(({ ptr, type, width, height, lut }, i) => ({
        samples: heap.samples(ptr, type, width * height * 3),
        type,
        lut,
        ev: a.evs[i]!,
      })),
    );
    return found && isBetter(found) ? found.curve : undefined;
  },

  align(
    { heap }: StepContext,
    a: {
      frames: LoadedFrame[];
      evs: (number | undefined)[];
      response?: ResponseCurve;
      options: AlignOptions;
    },
  ) {
    return alignStack(
      heap,
      a.frames.map((f) => ({ ...f, lut: respond(f.lut, a.response) })),
      a.evs,
      a.options,
    );
  },

  lookAt({ heap }: StepContext, a: { frame: LoadedFrame }) {
    return lookAt(heap, a.frame);
  },
  focusOrder(_: StepContext, a: { maps: SharpMap[]; distances: (number | undefined)[] }) {
    return focusOrder(a.maps, a.distances);
  },
  registerNeighbours({ heap }: StepContext, a: { pair: RunPair; scale: number }) {
    return registerNeighbours(heap, a.pair, a.scale);
  },
  linkInLight({ heap }: StepContext, a: { pair: RunPair; start: readonly number[] }) {
    return linkInLight(heap, a.pair, a.start);
  },
  warpedSharpness(
    { heap }: StepContext,
    a: { frame: LoadedFrame; toReference: readonly number[] },
  ) {
    return warpedSharpness(heap, a.frame, a.toReference);
  },
  readRun(_: StepContext, a: AlignedRun) {
    return readRun(a);
  },
};
