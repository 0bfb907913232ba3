import { smoothstep } from "../math/smoothstep";
import { median } from "../math/median";

/** Where highlights begin, EV below white: nothing darker is raised. */
const BEGIN_EV = -2.5;
/** What counts as mid-tones, EV below white. */
const MID_TONES_EV = [-5, -1.5] as const;

/**
 * Gives highlights back what toning took from them, for displays that can be brighter than white.
 * Mid-tones stay: the light that they were given shows how bright the highlights would be without
 * toning. Of what is missing to that, so much is given back as there is room, in the scene's own
 * order: what is brighter in the scene and as bright in the picture is raised more.
 *
 * @param target    log2 of the toned light by cell, 0 is white; it is changed
 * @param light     log2 of the scene's light
 * @param headroom  how far the display goes beyond white, EV
 */
export function raiseHighlights(target: Float32Array, light: Float32Array, headroom: number): void {
  const [darkest, lightest] = MID_TONES_EV;
  const gains: number[] = [];
  for (const [i, toned] of target.entries())
    if (toned > darkest && toned < lightest) gains.push(toned - light[i]!);
  const usual = gains.length ? median(gains) : 0;
  for (const [i, toned] of target.entries()) {
    const missing = light[i]! + usual - toned;
    if (!(missing > 0) || toned <= BEGIN_EV) continue;
    const room = headroom * (1 - Math.exp(-missing / headroom));
    target[i] = toned + smoothstep((toned - BEGIN_EV) / -BEGIN_EV) * room;
  }
}
