import { REST, type Adjustments } from "../core/finish/adjustments";
import type { Finish, FinishedPart } from "../core/finish/finish";
import { USUAL_MODEL } from "../core/finish/measureNoise";
import { renderFinished } from "../core/finish/renderFinished";
import { renderStrip, type Planes, type RenderSettings } from "../core/tone/renderStrip";
import type { ToneField } from "../core/tone/toneField";
import { Heap } from "../kernels/heap";

/** What the tests of finishing share: a small scene in memory, and how it is rendered. */
export interface FinishScene {
  heap: Heap;
  scene: Planes;
  field: ToneField;
}

const SETTINGS: RenderSettings = { gains: [1, 1, 1], exposure: 0, space: "srgb", linear: false };

/** A scene of which each pixel's light is given, shown as it is. */
export function finishScene(
  width: number,
  height: number,
  light: (x: number, y: number) => readonly [number, number, number],
  floor = 0,
): FinishScene {
  const heap = Heap.local(width * height * 400 + 40e6);
  const planeBytes = width * height * 4 + 64;
  const ptr = heap.alloc(planeBytes * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const rgb = light(x, y);
      for (let c = 0; c < 3; c++)
        heap.f32(ptr + c * planeBytes, width * height)[y * width + x] = rgb[c]!;
    }
  const at = heap.put([0, 0]);
  return {
    heap,
    scene: { ptr, planeBytes, width, height },
    field: {
      width: 1,
      height: 1,
      slopes: at,
      offsets: at + 4,
      shoulderStart: 1,
      white: 1,
      floor,
    },
  };
}

/** The finish of the whole picture with these adjustments, and of more parts. */
export const finishOf = (
  set: Partial<Adjustments>,
  parts: readonly FinishedPart[] = [],
  more: Partial<Finish> = {},
): Finish => ({
  scale: 1,
  aspect: 1.5,
  parts: [{ adjustments: { ...REST, ...set }, amount: 1 }, ...parts],
  noise: { ...USUAL_MODEL, factor: 1, byWeights: false },
  ...more,
});

/** The picture as floats, R, G, B interleaved, encoded or as linear light. */
export function rendered(
  { heap, scene, field }: FinishScene,
  finish: Finish | undefined,
  linear = false,
  rows: readonly [number, number] = [0, scene.height],
): Float32Array {
  const mark = heap.mark();
  const { width, height } = scene;
  const region = { x: 0, y: 0, width, height };
  const dst = heap.alloc(width * height * 12 + 64);
  const settings = { ...SETTINGS, linear };
  if (finish)
    renderFinished(heap, { scene, field, settings, finish }, region, "rgb32f", dst, ...rows);
  else renderStrip(heap, scene, field, settings, region, "rgb32f", dst, ...rows);
  const out = heap.f32(dst, width * height * 3).slice();
  heap.release(mark);
  return out;
}
