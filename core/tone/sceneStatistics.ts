import type { ToneGrid } from "./localTone";

export interface SceneStatistics {
  /** counts per bin of 1/4 EV, the first bin starting at `fromEv` (0 EV = the reference frame's saturation) */
  fromEv: number; binEv: number; counts: number[];
  /** EV between the 0.1 % darkest and 0.1 % brightest parts */
  rangeEv: number; lowEv: number; highEv: number;
}

/** How the scene's luminance is spread, in EV against the reference frame's saturation. */
export function sceneStatistics(grid: ToneGrid): SceneStatistics {
  const n = grid.width * grid.height, evs = new Float32Array(n);
  for (let i = 0; i < n; i++) evs[i] = Math.log2(Math.max(1e-6, 0.2627 * grid.rgb[i]! + 0.678 * grid.rgb[n + i]! + 0.0593 * grid.rgb[2 * n + i]!));
  const fromEv = -14, binEv = 0.25, counts = new Array<number>(96).fill(0);
  for (const e of evs) counts[Math.max(0, Math.min(95, Math.floor((e - fromEv) / binEv)))]!++;
  evs.sort();
  const lowEv = evs[Math.floor(n * 0.001)]!, highEv = evs[Math.min(n - 1, Math.floor(n * 0.999))]!;
  return { fromEv, binEv, counts, lowEv, highEv, rangeEv: highEv - lowEv };
}
