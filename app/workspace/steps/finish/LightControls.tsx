import { useState } from "react";
import type { Adjustments } from "../../../../core/finish/adjustments";
import { Choice } from "../../../ui/Choice";
import { ZoneLifts } from "../tone/ZoneLifts";
import { Adjustment, useAdjustments } from "./Adjustment";
import { CurveEditor } from "./CurveEditor";

const CURVES = [
  { value: "curve", text: "All" },
  { value: "curveRed", text: "Red" },
  { value: "curveGreen", text: "Green" },
  { value: "curveBlue", text: "Blue" },
] as const satisfies readonly { value: keyof Adjustments; text: string }[];

/** Brightness and contrast of a part. */
export function LightControls() {
  const { set, show, keep } = useAdjustments();
  const [channel, setChannel] = useState<(typeof CURVES)[number]["value"]>("curve");
  return (
    <>
      <Adjustment name="exposure" />
      <Adjustment name="contrast" />
      {set.contrast !== 0 && <Adjustment name="pivot" />}
      <Adjustment name="darks" />
      <Adjustment name="lights" />
      <Adjustment name="slope" />
      {set.slope !== 0 && <Adjustment name="slopeDirection" />}
      <ZoneLifts
        lifts={set.zones}
        statistics={undefined}
        onShow={(zones) => show({ zones })}
        onKeep={(zones) => keep({ zones }, "Lift a zone")}
      />
      <Choice
        label="Curve"
        hint="Of luminance, or of one channel."
        value={channel}
        options={CURVES}
        onChange={setChannel}
      />
      <CurveEditor
        name={CURVES.find(({ value }) => value === channel)!.text}
        points={set[channel]}
        onShow={(points) => show({ [channel]: points })}
        onKeep={(points) => keep({ [channel]: points }, "Curve")}
      />
    </>
  );
}
