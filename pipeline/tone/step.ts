import * as v from "valibot";
import { toneFieldBytes, ZONES, type ToneField } from "../../core/tone/toneField";
import { OPERATORS } from "../../core/tone/operators";
import { basisScratch } from "../../core/tone/toneBasis";
import type { Scene } from "../merge/scene";
import { range } from "../../core/math/range";
import { defineStep } from "../step";
import { leaseOf, type Lease } from "../../runtime/lease";
import { TaskScope } from "../../runtime/taskScope";
import type { RunOptions } from "../../runtime/work";
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
/** A tone field in the workers' memory, until it is released. */
export interface AllocatedField extends Lease {
  field: ToneField;
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
  key: ({ tone }: { tone: ToneStepSettings }) => tone,
  async run(
    work: Work,
    scene: Scene,
    settings: ToneStepSettings,
    on: Pick<RunOptions, "signal" | "priority"> = {},
  ): Promise<AllocatedField> {
    await using scope = new TaskScope(work);
    const { grid } = scene;
    const at = scope.allocate(toneFieldBytes(grid));
    const field = await scope.run(
      "tone",
      { grid, basis: scene.basis, settings, at },
      { scratch: basisScratch(grid), ...on },
    );
    scope.keep(at);
    return { field, ...leaseOf(() => work.free(at)) };
  },
});
