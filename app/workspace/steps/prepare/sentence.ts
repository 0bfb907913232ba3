import { AS_SHOT } from "../../../../core/colour/whiteBalance";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { counted, signed } from "../../../ui/format";

/** The sentence of a preparation that changes nothing. */
export const AS_IT_CAME = "White balance as shot";

/** The frame's preparation in words. */
export function prepareSentence({ prepare: p }: Recipe): string {
  const white =
    p.temperature === AS_SHOT.temperature && p.tint === 0
      ? AS_IT_CAME
      : `White at ${p.temperature} K, tint ${signed(p.tint, 0) || 0}`;
  const lights = p.local.filter((q) => q.on).length;
  const more = [
    lights ? `local white balance in ${counted(lights, "area")}` : "",
    p.distortion || p.vignetting || p.fringeRed || p.fringeBlue ? "lens corrected" : "",
    p.noise ? `noise ${Math.round(p.noise * 100)} %` : "",
    p.dust.length ? counted(p.dust.length, "dust spot") : "",
    p.exceptions.length ? `${counted(p.exceptions.length, "frame")} otherwise` : "",
  ].filter(Boolean);
  return [white, ...more].join(", ");
}
