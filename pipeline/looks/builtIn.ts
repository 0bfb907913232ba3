import { LOOK_FORMAT, LOOK_VERSION, type Look } from "./look";

type Made = Pick<Look, "name" | "note"> & Partial<Pick<Look, "tone" | "finish" | "parts">>;
const look = ({ tone = {}, finish = {}, parts = [], ...words }: Made): Look => ({
  format: LOOK_FORMAT,
  version: LOOK_VERSION,
  ...words,
  tone,
  finish,
  parts,
});

const part = (
  id: string,
  name: string,
  shape: Record<string, unknown>,
  adjustments: Look["finish"],
): Look["parts"][number] => ({
  id,
  name,
  on: true,
  amount: 1,
  inverted: false,
  feather: 0,
  shapes: [{ ...shape, joining: "add" } as Look["parts"][number]["shapes"][number]],
  off: [],
  adjustments,
});

/** The looks that come with the application: two for each trade, and none that shouts. */
export const BUILT_IN_LOOKS: readonly Look[] = [
  look({
    name: "Clear rooms",
    note: "walls light and neutral, windows held",
    tone: { strength: 0.78 },
    finish: {
      darks: 0.22,
      lights: -0.15,
      contrast: 0.06,
      small: 0.08,
      saturation: -0.04,
      dullColours: 0.06,
      curve: [
        [0.25, 0.26],
        [0.7, 0.76],
      ],
      hues: [{ hue: 75, reach: 35, turn: 0, saturation: -0.22, lightness: 0.1 }],
    },
  }),
  look({
    name: "Late lamp",
    note: "warm darks, lamps with a glow, blue windows held",
    tone: { strength: 0.62 },
    finish: {
      contrast: 0.1,
      temperature: 7200,
      darks: -0.05,
      darksHue: 60,
      darksTint: 0.1,
      glow: 0.22,
      glowRadius: 0.03,
      glowThreshold: -0.8,
      hues: [{ hue: 255, reach: 35, turn: -4, saturation: 0.12, lightness: -0.1 }],
      vignette: -0.25,
    },
  }),
  look({
    name: "Morning ridge",
    note: "haze off the distance, cool darks, warm light",
    finish: {
      haze: 0.28,
      contrast: 0.08,
      coarse: 0.14,
      darksHue: 250,
      darksTint: 0.1,
      lightsHue: 75,
      lightsTint: 0.08,
      dullColours: 0.15,
    },
  }),
  look({
    name: "Wide water",
    note: "deeper sky and clear water, whites soft",
    finish: {
      contrast: 0.06,
      lights: -0.18,
      medium: 0.08,
      hues: [
        { hue: 250, reach: 45, turn: -3, saturation: 0.14, lightness: -0.14 },
        { hue: 195, reach: 30, turn: 4, saturation: 0.1, lightness: 0 },
      ],
    },
    parts: [part("sky", "Sky", { type: "sky" }, { exposure: -0.25, medium: 0.1, haze: 0.1 })],
  }),
  look({
    name: "After sunset",
    note: "glow of the horizon kept, land lifted, cool above",
    tone: { strength: 0.75 },
    finish: {
      darks: 0.15,
      contrast: 0.08,
      darksHue: 262,
      darksTint: 0.13,
      lightsHue: 55,
      lightsTint: 0.1,
      saturation: 0.06,
      noiseReduction: 0.3,
      colourNoise: 0.4,
    },
  }),
  look({
    name: "Timber",
    note: "texture of wood and stone, quiet colour",
    finish: {
      small: 0.22,
      medium: 0.16,
      coarse: 0.06,
      contrast: 0.07,
      saturation: -0.14,
      hues: [{ hue: 60, reach: 40, turn: 0, saturation: 0.1, lightness: 0 }],
      lights: -0.1,
    },
  }),
  look({
    name: "Small creatures",
    note: "fine detail, greens calm, the ground behind quiet",
    finish: {
      fine: 0.18,
      small: 0.14,
      sharpening: 0.35,
      sharpeningRadius: 0.9,
      sharpeningEdges: 0.5,
      dullColours: 0.1,
      hues: [{ hue: 135, reach: 40, turn: -4, saturation: -0.12, lightness: -0.08 }],
      vignette: -0.3,
      noiseReduction: 0.2,
    },
  }),
  look({
    name: "Brass and glass",
    note: "metal with its highlights, darks clean, colours cool",
    finish: {
      contrast: 0.12,
      lights: -0.22,
      darks: -0.1,
      medium: 0.14,
      fine: 0.08,
      temperature: 6200,
      hues: [{ hue: 80, reach: 30, turn: 3, saturation: 0.12, lightness: 0.04 }],
      sharpening: 0.25,
    },
  }),
];
