import { HUES_OF_MONOCHROME } from "../../../../core/finish/adjustments";
import { NumberSlider } from "../../../ui/NumberSlider";
import { signed } from "../../../ui/format";
import { Adjustment, useAdjustments } from "./Adjustment";
import { HueRanges } from "./HueRanges";

const MONOCHROME_NAMES = ["Reds", "Yellows", "Greens", "Cyans", "Blues", "Magentas"];
const TINTS = [
  ["darksTint", "darksHue"],
  ["middleTint", "middleHue"],
  ["lightsTint", "lightsHue"],
] as const;

/** Colour of a part: as a whole, by hue, by tone, and without any. */
export function ColourControls() {
  const { set, show, keep } = useAdjustments();
  const weights = set.monochromeWeights;
  const withWeight = (i: number, value: number): number[] =>
    weights.map((w, k) => (k === i ? value : w));
  return (
    <>
      <Adjustment name="temperature" />
      <Adjustment name="tint" />
      <Adjustment name="saturation" />
      <Adjustment name="dullColours" />
      <HueRanges />
      {TINTS.map(([tint, hue]) => (
        <div key={tint}>
          <Adjustment name={tint} />
          {set[tint] > 0 && <Adjustment name={hue} />}
        </div>
      ))}
      <Adjustment name="monochrome" />
      {set.monochrome > 0 &&
        Array.from({ length: HUES_OF_MONOCHROME }, (_, i) => (
          <NumberSlider
            key={i}
            label={MONOCHROME_NAMES[i]!}
            name={`${MONOCHROME_NAMES[i]} in black and white`}
            hint="How light they become in black and white."
            unit="%"
            min={-1}
            max={1}
            step={0.01}
            reset={0}
            shown={(v) => signed(v * 100, 0) || "0"}
            parse={(n) => n / 100}
            value={weights[i]!}
            onChange={(v) => show({ monochromeWeights: withWeight(i, v) })}
            onCommit={(v) => keep({ monochromeWeights: withWeight(i, v) }, "Weights by hue")}
          />
        ))}
    </>
  );
}
