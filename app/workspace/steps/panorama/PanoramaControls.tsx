import { FULL_FRAME_MM } from "../../../../pipeline/focalLength";
import { plainNumber } from "../../../ui/format";
import { Setting } from "../../Setting";
import { usePanoramaRecipe, useRecord, useSession } from "../../state/workspace";
import { Guides } from "./Guides";
import { Masks } from "./Masks";
import { PanoramaLens } from "./PanoramaLens";
import { ViewControls } from "./ViewControls";

/** How a panorama's frames lie beside each other, and what of them is seen. */
export function PanoramaControls() {
  const { projection } = usePanoramaRecipe().panorama;
  const isPanini = useSession((s) => s.layout?.canvas.projection === "panini");
  return (
    <>
      <Setting name="panorama.projection" />
      {(projection === "panini" || isPanini) && <Setting name="panorama.distance" />}
      <PanoramaLens />
      <Guides />
      <ViewControls />
      <Masks />
      <FoundLens />
    </>
  );
}

/** The focal length that was found. */
function FoundLens() {
  const { frames } = useRecord();
  const camera = useSession((s) => s.layout?.cameras.find((c) => c));
  if (!camera) return null;
  const longSide = Math.max(...frames.map(({ info }) => Math.max(info.width, info.height)));
  return (
    <p className="mt-1 text-[12px] text-quiet">
      Lens {plainNumber(camera.focalPx, 0)} px,{" "}
      {plainNumber((camera.focalPx / longSide) * FULL_FRAME_MM, 1)} mm on {FULL_FRAME_MM} mm.
    </p>
  );
}
