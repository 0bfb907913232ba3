/** Changes the scene's radiance at a place: what is there at one moment. */
export type Moving = (x: number, y: number, rgb: [number, number, number]) => void;

/** Things that move through a scene of about 1000 px, by the frame's number. */
export const MOVING: Record<string, (step: number) => Moving> = {
  "a walking figure": (t) => (x, y, rgb) => {
    const cx = 230 + t * 120;
    if (Math.hypot(x - cx, y - 300) < 34 || (Math.abs(x - cx) < 44 && y > 320 && y < 560))
      paint(rgb, 0.05 + 0.1 * (Math.floor(y / 14) & 1), [1.2, 1, 1.5]);
  },
  "rolling leaves": (t) => (x, y, rgb) => {
    for (let k = 0; k < 14; k++) {
      const cx = 120 + k * 55 + t * (23 + 5 * (k % 3));
      const cy = 470 + 60 * Math.sin(k * 2.1);
      if (Math.hypot(x - cx, (y - cy) * 1.6) < 12) paint(rgb, 0.16, [2.2, 1, 0.25]);
    }
  },
  "a swaying curtain": (t) => (x, y, rgb) => {
    const edge = 760 + 26 * Math.sin(t * 1.3 + y / 90);
    if (x > edge && x < edge + 120 && y > 90 && y < 420)
      paint(rgb, 0.5 + 0.12 * Math.sin((x - edge) / 5), [1, 0.95, 0.85]);
  },
  "drifting cloud": (t) => (x, y, rgb) => {
    if (y > 260) return;
    const k = 0.5 + 0.5 * Math.sin((x - t * 14) / 70) * Math.sin(y / 45 + (x - t * 14) / 130);
    paint(rgb, 0.35 + 0.3 * k * k, [0.9, 1, 1.15]);
  },
  "glittering water": (t) => (x, y, rgb) => {
    if (y < 520) return;
    const k =
      Math.sin(x / 9 + t * 2.3 + Math.sin(y / 5)) * Math.sin(y / 4 - t * 1.7 + Math.sin(x / 23));
    paint(rgb, 0.12 + 0.3 * Math.max(0, k) ** 4, [0.8, 1, 1.1]);
  },
};

function paint(
  rgb: [number, number, number],
  light: number,
  colour: readonly [number, number, number],
): void {
  for (const c of [0, 1, 2] as const) rgb[c] = light * colour[c];
}
