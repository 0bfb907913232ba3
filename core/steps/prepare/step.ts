import * as v from "valibot";
import { AS_SHOT, whiteBalanceGains } from "../../colour/whiteBalance";
import { range } from "../range";
import { defineStep, nothingToPlan } from "../step";

const schema = v.object({ temperature: range(1700, 25000), tint: range(-150, 150) });

/** White balance in scene-linear light: a factor a channel, which commutes with the merge and is laid over its result. */
export const prepareStep = defineStep({
  settings: { schema, defaults: { ...AS_SHOT } },
  plan: nothingToPlan,
  run: (settings: v.InferOutput<typeof schema>): [number, number, number] => whiteBalanceGains(settings),
  evidence: () => [],
});
