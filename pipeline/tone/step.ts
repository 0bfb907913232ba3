import * as v from "valibot";
import { toneFieldBytes, ZONES, type ToneField } from "../../core/tone/toneField";
import { OPERATORS } from "../../core/tone/operators";
import { basisScratch } from "../../core/tone/toneBasis";
import { gridSize } from "../../core/tone/toneGrid";
import type { Scene } from "../merge/scene";
import { range } from "../../core/math/range";
import { defineStep, sizeAt } from "../step";
import type { Work } from "../work";

const schema = v.object({
  operator: v.picklist(["none", "plain", ...OPERATORS]),
  strength: range(0, 1),
  detail: range(-1, 1),
  exposure: range(-8, 8),
  /** EV for the scene's zones from its darkest to its lightest fifth; EV for the two ends */
  lifts: v.pipe(v.array(range(-4, 4)), v.length(ZONES)),
  white: range(-3, 3),
  black: range(-3, 3),
});
export type ToneStepSettings = v.InferOutput<typeof schema>;
/** A tone field in the workers' memory; `release` gives the memory back. */
export interface AllocatedField {
  field: ToneField;
  release(): void;
}

/**
 * Where each part of the picture is placed between black and white: a gain field, the same for
 * every size.
 */
export const toneStep = defineStep({
  settings: {
    schema,
    defaults: {
      operator: "local",
      strength: 0.7,
      detail: 0.15,
      exposure: 0,
      lifts: new Array<number>(ZONES).fill(0),
      white: 0,
      black: 0,
    },
  },
  plan(frames, _settings, downscale) {
    const { width, height } = sizeAt(frames[0]!, downscale);
    const grid = gridSize(width, height);
    return {
      width,
      height,
      margin: 0,
      peakBytes: toneFieldBytes(grid) + basisScratch(grid),
      heldBytes: toneFieldBytes(grid),
    };
  },
  async run(
    work: Work,
    scene: Scene,
    settings: ToneStepSettings,
    {
      signal,
      urgent = false,
    }: { signal?: AbortSignal; /** somebody waits for it */ urgent?: boolean } = {},
  ): Promise<AllocatedField> {
    const { grid } = scene;
    const at = work.allocate(toneFieldBytes(grid));
    const release = (): void => work.free(at);
    const { result, ended } = work.start(
      "tone",
      { grid, basis: scene.basis, settings, at },
      { urgent, scratch: basisScratch(grid), ...(signal ? { signal } : {}) },
    );
    try {
      return { field: await result, release };
    } catch (e) {
      void ended.then(release);
      throw e;
    }
  },
  facts: () => [],
});
