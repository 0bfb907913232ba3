import * as v from "valibot";
import {
  toneFieldBytes,
  ZONES,
  type ToneField,
  type ToneSettings,
} from "../../core/tone/toneField";
import { OPERATORS, TONE_OPERATORS } from "../../core/tone/operators/operators";
import { basisScratch } from "../../core/tone/toneBasis";
import type { Scene } from "../merge/scene";
import { range } from "../../core/math/range";
import { choice, data, percent, settingsOf, stops } from "../settings/fields";
import { defineStep } from "../step";
import { leaseOf, type Lease } from "../../runtime/lease";
import { TaskScope } from "../../runtime/taskScope";
import type { RunOptions } from "../../runtime/work";
import type { Work } from "../work";

const WITH_DETAIL = OPERATORS.filter((operator) => TONE_OPERATORS[operator].hasDetail);
const FUSED = { "merge.method": ["fusion"] };

const settings = settingsOf({
  operator: choice({
    label: "Operator",
    help: "Local evens out windows and shadows; Base keeps them softer; Global is one curve; Plain only sets the exposure; None hands out the light itself.",
    options: [
      ...OPERATORS.map((value) => ({ value, text: TONE_OPERATORS[value].name })),
      { value: "plain", text: "Plain" },
      { value: "none", text: "None", rare: true },
    ],
    default: "local",
    // ordinary frames come out as they went in
    defaultOf: { panorama: "plain", focus: "plain" },
    when: { unless: FUSED },
    change: "Tone operator",
  }),
  strength: percent({
    label: "Strength",
    help: "How far bright and dark areas are brought together.",
    min: 0,
    max: 1,
    default: 0.7,
    when: { settings: { "tone.operator": OPERATORS }, unless: FUSED },
  }),
  detail: percent({
    label: "Detail",
    help: "Texture within areas, softer or crisper.",
    min: -1,
    max: 1,
    default: 0.15,
    when: { settings: { "tone.operator": WITH_DETAIL }, unless: FUSED },
  }),
  exposure: stops({
    label: "Exposure",
    help: "Brightness of the whole picture.",
    min: -8,
    max: 8,
    usual: [-4, 4],
    default: 0,
  }),
  lifts: data({
    label: "Zones",
    help: "EV for each of the scene's zones, from its darkest to its lightest fifth.",
    schema: v.pipe(v.array(range(-4, 4)), v.length(ZONES)),
    default: new Array<number>(ZONES).fill(0),
    change: "Lift a zone",
  }),
  white: stops({
    label: "White end",
    help: "Moves the lightest tones.",
    min: -3,
    max: 3,
    usual: [-2, 2],
    default: 0,
  }),
  black: stops({
    label: "Black end",
    help: "Moves the darkest tones.",
    min: -3,
    max: 3,
    default: 0,
  }),
});
export type ToneStepSettings = v.InferOutput<typeof settings.schema>;
/** A tone field in the workers' memory, until it is released. */
export interface AllocatedField extends Lease {
  field: ToneField;
}

/**
 * Where each part of the picture is placed between black and white: a gain field, the same for
 * every size.
 */
export const toneStep = defineStep({
  settings,
  key: ({ tone }: { tone: ToneStepSettings }) => tone,
  async run(
    work: Work,
    scene: Scene,
    settings: ToneStepSettings & Pick<ToneSettings, "headroom">,
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
