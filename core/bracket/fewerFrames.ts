import { USUAL_NOISE, type NoiseModel } from "../align/logPyramid";
import type { SceneStatistics } from "../tone/sceneStatistics";
import { clamp } from "../math/clamp";

export interface Coverage {
  /** noise of the shadows, as signal over noise in dB */
  shadowDb: number;
  /** share of the scene that no frame shows below its saturation */
  clipped: number;
  /** EV from where signal equals noise up to the brightest that is not clipped */
  rangeEv: number;
}
export interface FewerFrames {
  all: Coverage;
  /** the one frame that alone would lose least: its place */
  best: number;
  single: Coverage;
  /** what leaving each frame out would cost; undefined for those not used */
  without: (Coverage | undefined)[];
}

/** The shadows are the darkest fifth of the scene. */
const SHADOWS = 0.2;

/**
 * What a bracket's frames are worth, expected from how the scene's light is spread and the camera's
 * noise: with all of them, with each one left out, and with the best single one.
 *
 * @param evs  exposures against the reference; undefined for frames not used
 * @see Hasinoff, Durand, Freeman, "Noise-optimal capture for high dynamic range photography", CVPR
 *   2010 (the noise model)
 */
export function fewerFrames(
  scene: SceneStatistics,
  evs: readonly (number | undefined)[],
  noise: NoiseModel = USUAL_NOISE,
): FewerFrames | undefined {
  const used = evs.flatMap((e, i) => (e === undefined ? [] : [i]));
  if (!used.length) return undefined;
  const of = (places: readonly number[]): Coverage =>
    coverage(
      scene,
      places.map((i) => evs[i]!),
      noise,
    );
  const alone = used.map((i) => ({ i, c: of([i]) }));
  // a clipped pixel is lost, a noisy one only worse: ten percent clipped weigh as much as 6 dB
  const cost = (c: Coverage): number => c.clipped * 60 - c.shadowDb;
  const best = alone.reduce((a, b) => (cost(b.c) < cost(a.c) ? b : a));
  return {
    all: of(used),
    best: best.i,
    single: best.c,
    without: evs.map((e, i) =>
      e === undefined || used.length < 2 ? undefined : of(used.filter((k) => k !== i)),
    ),
  };
}

/**
 * Variance of radiance `light` (1 = the reference frame's saturation) from all exposures that do
 * not clip it.
 */
function variance(light: number, evs: readonly number[], { gain, read }: NoiseModel): number {
  let weight = 0;
  for (const ev of evs) {
    const t = 2 ** ev;
    const s = light * t;
    if (s < 0.97) weight += (t * t) / (s / gain + read * read);
  }
  return weight > 0 ? 1 / weight : Infinity;
}

function coverage(scene: SceneStatistics, evs: readonly number[], noise: NoiseModel): Coverage {
  const total = scene.counts.reduce((a, b) => a + b, 0);
  const longest = Math.max(...evs);
  const shortest = Math.min(...evs);
  const light = (bin: number): number => 2 ** (scene.fromEv + (bin + 0.5) * scene.binEv);
  let clipped = 0;
  let seen = 0;
  let noisePower = 0;
  scene.counts.forEach((n, i) => {
    if (light(i) * 2 ** shortest >= 0.97) clipped += n;
    const shadow = clamp(SHADOWS * total - seen, 0, n);
    // what even the shortest exposure clips has no noise to speak of
    if (shadow > 0)
      noisePower += shadow * Math.min(1, variance(light(i), evs, noise) / light(i) ** 2);
    seen += n;
  });
  let floor = -longest - 0.1;
  while (floor > -40 && variance(2 ** floor, evs, noise) < (2 ** floor) ** 2) floor -= 0.05;
  return {
    shadowDb: -10 * Math.log10(Math.max(1e-12, noisePower / (SHADOWS * total))),
    clipped: clipped / total,
    rangeEv: -shortest - floor,
  };
}
