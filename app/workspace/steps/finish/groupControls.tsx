import type { ComponentType } from "react";
import type { AdjustmentGroup } from "../../../../pipeline/finish/adjustmentFields";
import { COARSE_SHARE, MEDIUM_SHARE } from "../../../../core/finish/lightField";
import { useSession } from "../../state/workspace";
import { ToolButton } from "../../ToolButton";
import { Adjustment, useAdjustments } from "./Adjustment";
import { ColourControls } from "./ColourControls";
import { LightControls } from "./LightControls";

function DetailControls() {
  const { width, height } = useSession((s) => s.size);
  const px = (share: number): string => `${Math.round(share * Math.max(width, height))} px`;
  return (
    <>
      <Adjustment name="fine" label="Fine, 2 px" />
      <Adjustment name="small" label="Small, 8 px" />
      <Adjustment name="medium" label={`Medium, ${px(MEDIUM_SHARE)}`} />
      <Adjustment name="coarse" label={`Coarse, ${px(COARSE_SHARE)}`} />
    </>
  );
}

function NoiseControls() {
  return (
    <>
      <Adjustment name="noiseReduction" />
      <Adjustment name="colourNoise" />
    </>
  );
}

function SharpeningControls() {
  const { set } = useAdjustments();
  return (
    <>
      <Adjustment name="sharpening" />
      {set.sharpening > 0 && (
        <>
          <Adjustment name="sharpeningRadius" />
          <Adjustment name="sharpeningEdges" />
        </>
      )}
    </>
  );
}

function AirControls() {
  const { set } = useAdjustments();
  return (
    <>
      <Adjustment name="haze" />
      <Adjustment name="glow" />
      {set.glow > 0 && (
        <>
          <Adjustment name="glowThreshold" />
          <Adjustment name="glowRadius" />
        </>
      )}
      <Adjustment name="vignette" />
      {set.vignette !== 0 && (
        <>
          <div className="my-1">
            <ToolButton
              tool="vignette"
              text="Place its centre"
              hint="Click or drag on the picture"
            />
          </div>
          <Adjustment name="vignetteX" />
          <Adjustment name="vignetteY" />
          <Adjustment name="vignetteSize" />
          <Adjustment name="vignetteRoundness" />
          <Adjustment name="vignetteFeather" />
        </>
      )}
    </>
  );
}

function FringeControls() {
  const { set } = useAdjustments();
  return (
    <>
      <Adjustment name="purpleFringe" />
      <Adjustment name="greenFringe" />
      {(set.purpleFringe > 0 || set.greenFringe > 0) && <Adjustment name="fringeReach" />}
    </>
  );
}

/** The controls of each group of adjustments. */
export const GROUP_CONTROLS: Readonly<Record<AdjustmentGroup, ComponentType>> = {
  light: LightControls,
  detail: DetailControls,
  colour: ColourControls,
  noise: NoiseControls,
  sharpening: SharpeningControls,
  air: AirControls,
  fringes: FringeControls,
};
