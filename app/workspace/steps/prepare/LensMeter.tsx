import { useEffect, useRef, useState } from "react";
import { RhizomeError } from "../../../../core/error";
import type { LensFit } from "../../../../core/frame/measureLens";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { Button } from "../../../ui/Button";
import { plainNumber, signed } from "../../../ui/format";
import type { Edit } from "../../state/edit";

interface Props {
  recipe: Recipe;
  edit: Edit;
  /** half the diagonal of a frame, px */
  halfDiagonal: number;
  measure: () => Promise<LensFit>;
}

/** Measures the lens by a frame of the stack, sets what was found for sure, and says by what. */
export function LensMeter({ recipe, edit, halfDiagonal, measure }: Props) {
  const [busy, setBusy] = useState(false);
  const [message, setMessage] = useState<string>();
  const latest = useRef({ recipe, edit });
  useEffect(() => {
    latest.current = { recipe, edit };
  });
  const start = async (): Promise<void> => {
    setBusy(true);
    try {
      const fit = await measure();
      const { recipe: r, edit: e } = latest.current;
      const found = Object.fromEntries(
        Object.entries(fit).map(([key, m]: [string, { value: number }]) => [
          key,
          Number(m.value.toFixed(4)),
        ]),
      );
      if (Object.entries(found).some(([key, value]) => r.prepare[key as keyof LensFit] !== value))
        e.keep({ ...r, prepare: { ...r.prepare, ...found } }, "Measure the lens");
      setMessage(inWords(fit, halfDiagonal, r.kind));
    } catch (error) {
      setMessage(RhizomeError.from(error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <Button
        className="mt-1 px-2"
        disabled={busy}
        onClick={() => void start()}
        hint="Measures distortion from long straight edges, colour fringes from edges all over the middle exposure, and vignetting from exposures between which the camera moved. Lens data in a DNG file is used first."
      >
        {busy ? "Measuring…" : "Measure"}
      </Button>
      {message && (
        <p aria-live="polite" className="mt-1 text-[12px] text-quiet">
          {message}
        </p>
      )}
    </>
  );
}

function inWords(
  { distortion, vignetting, fringeRed, fringeBlue }: LensFit,
  halfDiagonal: number,
  kind: Recipe["kind"],
): string {
  const px = (v: number): string => `${plainNumber(v * 1e-4 * halfDiagonal, 2)} px`;
  const by = (of: number, one: string, many: string): string =>
    of === 0 ? "by the camera's file" : `by ${of} ${of === 1 ? one : many}`;
  const distorted = distortion
    ? `${distortion.value === 0 ? "No distortion" : `Distortion ${signed(distortion.value * 100, 1)} %`}, ${by(distortion.of, "edge", "edges")}.`
    : "Too few long straight edges to measure distortion: set it with the grid.";
  const fringe = fringeRed ?? fringeBlue;
  const places = by(Math.max(fringeRed?.of ?? 0, fringeBlue?.of ?? 0), "place", "places");
  let fringes: string;
  if (!fringe) fringes = "Too few clear edges to measure fringes.";
  else if (!fringeRed?.value && !fringeBlue?.value) fringes = `No fringes, ${places}.`;
  else
    fringes = `Fringes: ${[fringeRed ? `red ${px(fringeRed.value)}` : "", fringeBlue ? `blue ${px(fringeBlue.value)}` : ""].filter(Boolean).join(", ")}, ${places}.`;
  let corners: string;
  if (vignetting)
    corners = `${vignetting.value === 0 ? "No vignetting" : `Vignetting ${Math.round(vignetting.value * 100)} %`}, ${by(vignetting.of, "frame that moved", "frames that moved")}.`;
  else if (kind === "bracket")
    corners = "The camera moved too little to measure vignetting: set it by eye.";
  else if (kind === "panorama") corners = "Vignetting is corrected where frames overlap.";
  else corners = "Vignetting is measured in brackets only: set it by eye.";
  return `${distorted} ${corners} ${fringes}`;
}
