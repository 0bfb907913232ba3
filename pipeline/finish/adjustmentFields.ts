import * as v from "valibot";
import { REST, HUES_OF_MONOCHROME } from "../../core/finish/adjustments";
import { ZONES } from "../../core/tone/toneField";
import { range } from "../../core/math/range";
import { data, number, percent, stops } from "../settings/fields";

const SIGNED = { min: -1, max: 1, default: 0, signed: true } as const;
const SHARE = { min: 0, max: 1, default: 0 } as const;
const HUE = { unit: "\u00b0", min: 0, max: 360, step: 1, whole: false } as const;

const CURVE_POINTS = v.pipe(
  v.array(v.tuple([range(0, 1), range(0, 1)])),
  v.maxLength(16),
  v.check(
    (points) => points.every(([x], i) => i === 0 || x > points[i - 1]![0]),
    "points go from left to right",
  ),
);
const curve = (label: string, of: string) =>
  data({
    label,
    help: `Points of the curve of ${of}, from dark to light; none is a straight line.`,
    schema: CURVE_POINTS,
    default: [],
  });

export const HueRangeSchema = v.strictObject({
  hue: range(0, 360),
  reach: range(5, 90),
  turn: range(-60, 60),
  saturation: range(-1, 1),
  lightness: range(-1, 1),
});

/** Brightness and contrast. */
export const LIGHT_FIELDS = {
  exposure: stops({
    label: "Exposure",
    help: "Lighter or darker.",
    min: -5,
    max: 5,
    usual: [-3, 3],
    default: 0,
  }),
  contrast: percent({ ...SIGNED, label: "Contrast", help: "Steeper or flatter about the pivot." }),
  pivot: stops({
    label: "Pivot",
    help: "The tone that contrast leaves where it is, from middle grey.",
    min: -4,
    max: 3,
    usual: [-3, 2],
    default: REST.pivot,
  }),
  darks: percent({
    ...SIGNED,
    label: "Darks",
    help: "Brightens or deepens dark areas, by the light around them.",
  }),
  lights: percent({
    ...SIGNED,
    label: "Lights",
    help: "Brightens bright areas, or brings back what is in them.",
  }),
  zones: data({
    label: "Zones",
    help: "EV for each fifth of the display's range, from its darkest.",
    schema: v.pipe(v.array(range(-4, 4)), v.length(ZONES)),
    default: [...REST.zones],
  }),
  slope: stops({
    label: "Side light",
    help: "Lifts one side of the picture against the other.",
    min: -3,
    max: 3,
    usual: [-2, 2],
    default: 0,
  }),
  slopeDirection: number({
    ...HUE,
    label: "From",
    help: "Side that is lifted: 0 right, 90 top, 180 left, 270 bottom.",
    default: 0,
  }),
  curve: curve("Curve", "luminance"),
  curveRed: curve("Red curve", "red"),
  curveGreen: curve("Green curve", "green"),
  curveBlue: curve("Blue curve", "blue"),
};

/** Texture, by how large it is. */
export const DETAIL_FIELDS = {
  fine: percent({ ...SIGNED, label: "Fine", help: "Crisper or softer texture of about 2 px." }),
  small: percent({ ...SIGNED, label: "Small", help: "Crisper or softer texture of about 8 px." }),
  medium: percent({
    ...SIGNED,
    label: "Medium",
    help: "Relief of forms of about half a percent of the picture.",
  }),
  coarse: percent({
    ...SIGNED,
    label: "Coarse",
    help: "Relief of forms of about two percent of the picture.",
  }),
};

/** Colour as a whole, by hue and by tone. */
export const COLOUR_FIELDS = {
  temperature: number({
    label: "Temperature",
    help: "Warmer or cooler; on top of the white balance of the frames.",
    unit: "K",
    min: 2000,
    max: 25000,
    usual: [3000, 12000],
    step: 50,
    default: REST.temperature,
  }),
  tint: number({
    label: "Tint",
    help: "Green to magenta.",
    min: -150,
    max: 150,
    usual: [-60, 60],
    step: 1,
    default: 0,
  }),
  saturation: percent({
    ...SIGNED,
    label: "Saturation",
    help: "Strength of all colours; the minimum is grey.",
  }),
  dullColours: percent({
    ...SIGNED,
    label: "Dull colours",
    help: "Strengthens dull colours before strong ones, and skin least.",
  }),
  hues: data({
    label: "Hues",
    help: "Ranges of hue, each turned, strengthened or lightened.",
    schema: v.pipe(v.array(HueRangeSchema), v.maxLength(12)),
    default: [],
  }),
  darksHue: number({
    ...HUE,
    label: "Hue of darks",
    help: "Hue of the tint of dark tones.",
    default: REST.darksHue,
  }),
  darksTint: percent({
    ...SHARE,
    label: "Tint of darks",
    help: "How strongly dark tones are tinted.",
  }),
  middleHue: number({
    ...HUE,
    label: "Hue of middle",
    help: "Hue of the tint of middle tones.",
    default: REST.middleHue,
  }),
  middleTint: percent({
    ...SHARE,
    label: "Tint of middle",
    help: "How strongly middle tones are tinted.",
  }),
  lightsHue: number({
    ...HUE,
    label: "Hue of lights",
    help: "Hue of the tint of light tones.",
    default: REST.lightsHue,
  }),
  lightsTint: percent({
    ...SHARE,
    label: "Tint of lights",
    help: "How strongly light tones are tinted.",
  }),
  monochrome: percent({ ...SHARE, label: "Black and white", help: "Mixes with black and white." }),
  monochromeWeights: data({
    label: "Weights by hue",
    help: "How light red, yellow, green, cyan, blue and magenta become in black and white.",
    schema: v.pipe(v.array(range(-1, 1)), v.length(HUES_OF_MONOCHROME)),
    default: [...REST.monochromeWeights],
  }),
};

/** Noise, as the merge knows it. */
export const NOISE_FIELDS = {
  noiseReduction: percent({
    ...SHARE,
    label: "Noise reduction",
    help: "Takes luminance noise away as far as the merge knows that it is noise.",
  }),
  colourNoise: percent({
    ...SHARE,
    label: "Colour noise",
    help: "Takes away spots of colour that are noise.",
  }),
};

/** Blur of the capture. */
export const SHARPENING_FIELDS = {
  sharpening: percent({
    ...SHARE,
    label: "Sharpening",
    help: "Takes back the blur of lens and sensor.",
  }),
  sharpeningRadius: number({
    label: "Blur",
    help: "Standard deviation of the blur that is taken back.",
    unit: "px",
    min: 0.4,
    max: 2,
    step: 0.05,
    digits: 2,
    default: REST.sharpeningRadius,
  }),
  sharpeningEdges: percent({
    label: "Edges only",
    help: "Leaves smooth areas alone; the higher, the stronger an edge must be.",
    min: 0,
    max: 1,
    default: REST.sharpeningEdges,
  }),
};

/** What lies between the camera and the scene, and what the eye adds. */
export const AIR_FIELDS = {
  haze: percent({ ...SIGNED, label: "Clear the air", help: "Takes haze off, or lays it on." }),
  glow: percent({ ...SHARE, label: "Glow", help: "Light of bright things spreads around them." }),
  glowThreshold: stops({
    label: "Glows above",
    help: "How bright a thing is that glows, from display white.",
    min: -4,
    max: 3,
    default: REST.glowThreshold,
  }),
  glowRadius: percent({
    label: "Glow's reach",
    help: "How far the glow reaches, of the picture's width.",
    min: 0.002,
    max: 0.15,
    step: 0.002,
    digits: 1,
    default: REST.glowRadius,
  }),
  vignette: stops({
    label: "Vignette",
    help: "Darkens or lightens towards the borders.",
    min: -4,
    max: 4,
    usual: [-2, 2],
    default: 0,
  }),
  vignetteX: percent({
    ...SHARE,
    label: "Centre across",
    help: "Middle of the vignette, from the left.",
    default: 0.5,
  }),
  vignetteY: percent({
    ...SHARE,
    label: "Centre down",
    help: "Middle of the vignette, from the top.",
    default: 0.5,
  }),
  vignetteSize: percent({
    label: "Size",
    help: "Where the vignette has its full strength, of half the picture's diagonal.",
    min: 0.1,
    max: 1.5,
    default: REST.vignetteSize,
  }),
  vignetteRoundness: percent({
    ...SHARE,
    label: "Roundness",
    help: "From the picture's shape to a circle.",
    default: REST.vignetteRoundness,
  }),
  vignetteFeather: percent({
    label: "Softness",
    help: "How softly the vignette begins.",
    min: 0.05,
    max: 1,
    default: REST.vignetteFeather,
  }),
};

/** Coloured rims at edges. */
export const FRINGE_FIELDS = {
  purpleFringe: percent({
    ...SHARE,
    label: "Purple rims",
    help: "Takes purple off beside strong edges.",
  }),
  greenFringe: percent({
    ...SHARE,
    label: "Green rims",
    help: "Takes green off beside strong edges.",
  }),
  fringeReach: number({
    label: "Reach",
    help: "How far from an edge a rim reaches.",
    unit: "px",
    min: 1,
    max: 8,
    step: 0.5,
    digits: 1,
    default: REST.fringeReach,
  }),
};

/** The adjustments of a part in their groups. */
export const ADJUSTMENT_GROUPS = {
  light: { name: "Light", fields: LIGHT_FIELDS },
  detail: { name: "Detail by scale", fields: DETAIL_FIELDS },
  colour: { name: "Colour", fields: COLOUR_FIELDS },
  noise: { name: "Noise", fields: NOISE_FIELDS },
  sharpening: { name: "Sharpening", fields: SHARPENING_FIELDS },
  air: { name: "Air", fields: AIR_FIELDS },
  fringes: { name: "Rims", fields: FRINGE_FIELDS },
} as const;
export type AdjustmentGroup = keyof typeof ADJUSTMENT_GROUPS;
export const ADJUSTMENT_GROUP_NAMES = Object.keys(ADJUSTMENT_GROUPS) as AdjustmentGroup[];

export const ADJUSTMENT_FIELDS = {
  ...LIGHT_FIELDS,
  ...DETAIL_FIELDS,
  ...COLOUR_FIELDS,
  ...NOISE_FIELDS,
  ...SHARPENING_FIELDS,
  ...AIR_FIELDS,
  ...FRINGE_FIELDS,
};
