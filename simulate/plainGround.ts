import type { RadianceImage } from "./camera";
import { random } from "../core/math/random";

/** How much the grain differs from px to px, as a share of the light (standard deviation). */
const GRAIN = 0.03;

/**
 * A bright ground of soft gradients with a faint grain, like a petal or paper: enough to hold
 * frames together, too little to hide a halo.
 *
 * @param seed  another seed, another ground
 */
export function plainGround(width: number, height: number, seed: number): RadianceImage {
  const rnd = random(seed);
  const waves = Array.from({ length: 3 }, () => ({
    across: (rnd() * 2 - 1) * 4,
    down: (rnd() * 2 - 1) * 4,
    from: rnd() * 6,
    colour: rnd() * 6,
  }));
  // over three px each way: finer, the frames themselves would lose it as they are resampled onto one
  // another
  const noise = Float32Array.from(
    { length: width * height },
    () => (rnd() + rnd() + rnd() + rnd() - 2) * Math.sqrt(3),
  );
  const near = (x: number, y: number): number =>
    noise[Math.max(0, Math.min(height - 1, y)) * width + Math.max(0, Math.min(width - 1, x))]!;
  const grain = noise.map((_, i) => {
    const x = i % width;
    const y = Math.floor(i / width);
    let sum = 0;
    for (let v = -1; v <= 1; v++) for (let u = -1; u <= 1; u++) sum += near(x + u, y + v);
    return 1 + (GRAIN * sum) / 3;
  });
  const planes = [0, 1, 2].map((c) =>
    grain.map(
      (g, i) =>
        g *
        (0.3 +
          waves.reduce(
            (s, w) =>
              s +
              0.06 *
                Math.sin(
                  (w.across * (i % width)) / width +
                    (w.down * Math.floor(i / width)) / height +
                    w.from +
                    Math.sin(w.colour) * c * 0.4,
                ),
            0,
          )),
    ),
  ) as [Float32Array, Float32Array, Float32Array];
  return { width, height, planes };
}
