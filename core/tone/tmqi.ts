/**
 * The tone-mapped image quality index of a picture against the scene that it shows.
 * @see Yeganeh and Wang, "Objective quality assessment of tone-mapped images", TIP 2013
 */
export interface Tmqi {
  /** all of it, 0 to 1 */
  quality: number;
  /** how much of the scene's structure is there, over five scales */
  fidelity: number;
  /** how far brightness and contrast are those of natural pictures */
  naturalness: number;
}

interface Plane {
  width: number;
  height: number;
  values: Float64Array;
}

const SCALE_WEIGHTS = [0.0448, 0.2856, 0.3001, 0.2363, 0.1333];
const SCENE_TOP = 2 ** 32 - 1;

/**
 * Quality of a picture.
 *
 * @param scene    luminance, linear, any scale
 * @param picture  luma, 0 to 255 as encoded
 */
export function tmqi(
  scene: ArrayLike<number>,
  picture: ArrayLike<number>,
  width: number,
  height: number,
): Tmqi {
  let [low, high] = [Infinity, -Infinity];
  for (let i = 0; i < scene.length; i++) {
    low = Math.min(low, scene[i]!);
    high = Math.max(high, scene[i]!);
  }
  const k = SCENE_TOP / Math.max(1e-12, high - low);
  const fidelity = structuralFidelity(
    { width, height, values: Float64Array.from(scene, (v) => (v - low) * k) },
    { width, height, values: Float64Array.from(picture) },
  );
  const naturalness = naturalnessOf({ width, height, values: Float64Array.from(picture) });
  const quality = 0.8012 * fidelity ** 0.3046 + (1 - 0.8012) * naturalness ** 0.7088;
  return { quality, fidelity, naturalness };
}

function structuralFidelity(scene: Plane, picture: Plane): number {
  let [a, b] = [scene, picture];
  let product = 1;
  for (const [level, weight] of SCALE_WEIGHTS.entries()) {
    product *= Math.max(1e-9, localFidelity(a, b, 2 ** (4 - level))) ** weight;
    a = halved(a);
    b = halved(b);
  }
  return product;
}

/** Mean fidelity of one scale, at so many cycles a degree. */
function localFidelity(a: Plane, b: Plane, cycles: number): number {
  const sensitivity = 100 * 2.6 * (0.0192 + 0.114 * cycles) * Math.exp(-((0.114 * cycles) ** 1.1));
  const threshold = 128 / (1.4 * sensitivity);
  const spread = threshold / 3;
  const seen = (sigma: number): number => normalCdf((sigma - threshold) / spread);
  const product = (x: Plane, y: Plane): Plane => ({
    ...x,
    values: x.values.map((v, i) => v * y.values[i]!),
  });
  const [ma, mb] = [blurred(a), blurred(b)];
  const [maa, mbb, mab] = [blurred(product(a, a)), blurred(product(b, b)), blurred(product(a, b))];
  let sum = 0;
  for (let i = 0; i < ma.values.length; i++) {
    const [u, v] = [ma.values[i]!, mb.values[i]!];
    const sa = Math.sqrt(Math.max(0, maa.values[i]! - u * u));
    const sb = Math.sqrt(Math.max(0, mbb.values[i]! - v * v));
    const sab = mab.values[i]! - u * v;
    const [pa, pb] = [seen(sa), seen(sb)];
    sum += ((2 * pa * pb + 0.01) / (pa * pa + pb * pb + 0.01)) * ((sab + 10) / (sa * sb + 10));
  }
  return sum / ma.values.length;
}

const GAUSSIAN = (() => {
  const taps = Array.from({ length: 11 }, (_, i) => Math.exp(-((i - 5) ** 2) / (2 * 1.5 ** 2)));
  const sum = taps.reduce((a, b) => a + b);
  return taps.map((t) => t / sum);
})();

/** Means under a Gaussian window of 11, where it lies wholly inside. */
function blurred({ width, height, values }: Plane): Plane {
  const [w, h] = [width - 10, height - 10];
  const across = new Float64Array(w * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < w; x++) {
      let sum = 0;
      for (let j = 0; j < 11; j++) sum += GAUSSIAN[j]! * values[y * width + x + j]!;
      across[y * w + x] = sum;
    }
  const out = new Float64Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let sum = 0;
      for (let j = 0; j < 11; j++) sum += GAUSSIAN[j]! * across[(y + j) * w + x]!;
      out[y * w + x] = sum;
    }
  return { width: w, height: h, values: out };
}

function halved({ width, height, values }: Plane): Plane {
  const [w, h] = [width >> 1, height >> 1];
  const out = new Float64Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const at = 2 * y * width + 2 * x;
      out[y * w + x] =
        (values[at]! + values[at + 1]! + values[at + width]! + values[at + width + 1]!) / 4;
    }
  return { width: w, height: h, values: out };
}

function normalCdf(x: number): number {
  // Abramowitz and Stegun 7.1.26
  const t = 1 / (1 + 0.3275911 * (Math.abs(x) / Math.SQRT2));
  const poly =
    t *
    (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))));
  const erf = 1 - poly * Math.exp(-(x * x) / 2);
  return 0.5 * (1 + Math.sign(x) * erf);
}

/** Means of what pictures of nature have: brightness, and standard deviation in blocks of 11. */
export const NATURAL = { mean: 115.94, spread: 27.99, alpha: 4.4, beta: 10.1, scale: 64.29 };

/** Mean brightness, and mean standard deviation of blocks of 11 x 11. */
export function brightnessAndContrast({ width, height, values }: Plane): [number, number] {
  let mean = 0;
  for (const v of values) mean += v;
  mean /= values.length;
  let contrast = 0;
  let blocks = 0;
  for (let y = 0; y + 11 <= height; y += 11)
    for (let x = 0; x + 11 <= width; x += 11) {
      let [sum, squares] = [0, 0];
      for (let j = 0; j < 11; j++)
        for (let i = 0; i < 11; i++) {
          const v = values[(y + j) * width + x + i]!;
          sum += v;
          squares += v * v;
        }
      contrast += Math.sqrt(Math.max(0, (squares - (sum * sum) / 121) / 120));
      blocks++;
    }
  return [mean, contrast / blocks];
}

function naturalnessOf(picture: Plane): number {
  const [mean, contrast] = brightnessAndContrast(picture);
  const { alpha, beta, scale, spread } = NATURAL;
  const density = (x: number): number =>
    x <= 0 || x >= 1 ? 0 : x ** (alpha - 1) * (1 - x) ** (beta - 1);
  const mode = (alpha - 1) / (alpha + beta - 2);
  const brightness = Math.exp(-((mean - NATURAL.mean) ** 2) / (2 * spread ** 2));
  return (brightness * density(contrast / scale)) / density(mode);
}
