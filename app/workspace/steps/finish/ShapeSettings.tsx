import type { KeptShape } from "../../../../pipeline/finish/partSchema";
import { Choice } from "../../../ui/Choice";
import { NumberSlider } from "../../../ui/NumberSlider";

interface Props {
  shape: KeptShape;
  /** its place in the part, from 1 */
  number: number;
  onShow: (shape: KeptShape) => void;
  onKeep: (shape: KeptShape) => void;
}

/** One number of a shape: how it is shown, and where it stands in the shape. */
interface Dimension<S extends KeptShape> {
  label: string;
  hint: string;
  unit: string;
  times: number;
  digits: number;
  min: number;
  max: number;
  step: number;
  rest: number;
  get: (shape: S) => number;
  set: (shape: S, value: number) => S;
}

type ShapeOf<T extends KeptShape["type"]> = Extract<KeptShape, { type: T }>;

/** A share of the picture, in per cent. */
const share = <S extends KeptShape>(
  label: string,
  hint: string,
  get: (shape: S) => number,
  set: (shape: S, value: number) => S,
  [min, max, rest]: readonly [number, number, number] = [0, 1, 0.5],
): Dimension<S> => ({
  label,
  hint,
  unit: "%",
  times: 100,
  digits: 0,
  min,
  max,
  step: 0.01,
  rest,
  get,
  set,
});

const inUnit = <S extends KeptShape>(
  label: string,
  hint: string,
  unit: string,
  [min, max, step, rest]: readonly [number, number, number, number],
  get: (shape: S) => number,
  set: (shape: S, value: number) => S,
): Dimension<S> => ({
  label,
  hint,
  unit,
  times: 1,
  digits: step < 1 ? 2 : 0,
  min,
  max,
  step,
  rest,
  get,
  set,
});

/** What can be set of each shape in numbers; outlines are drawn anew. */
const DIMENSIONS: { [T in KeptShape["type"]]: readonly Dimension<ShapeOf<T>>[] } = {
  outline: [],
  sky: [],
  brush: [
    share(
      "Size",
      "Radius, of the picture's width.",
      (s) => s.radius,
      (s, radius) => ({ ...s, radius }),
      [0.001, 0.2, 0.03],
    ),
    share(
      "Softness",
      "How much of the brush fades.",
      (s) => s.softness,
      (s, softness) => ({ ...s, softness }),
    ),
    share(
      "Flow",
      "How far the stroke covers.",
      (s) => s.flow,
      (s, flow) => ({ ...s, flow }),
      [0.05, 1, 1],
    ),
  ],
  gradient: [
    share(
      "From, across",
      "Where it is whole.",
      (s) => s.from[0],
      (s, x) => ({ ...s, from: [x, s.from[1]] }),
    ),
    share(
      "From, down",
      "Where it is whole.",
      (s) => s.from[1],
      (s, y) => ({ ...s, from: [s.from[0], y] }),
    ),
    share(
      "To, across",
      "Where it ends.",
      (s) => s.to[0],
      (s, x) => ({ ...s, to: [x, s.to[1]] }),
    ),
    share(
      "To, down",
      "Where it ends.",
      (s) => s.to[1],
      (s, y) => ({ ...s, to: [s.to[0], y] }),
    ),
  ],
  ellipse: [
    share(
      "Centre across",
      "From the left.",
      (s) => s.centre[0],
      (s, x) => ({ ...s, centre: [x, s.centre[1]] }),
    ),
    share(
      "Centre down",
      "From the top.",
      (s) => s.centre[1],
      (s, y) => ({ ...s, centre: [s.centre[0], y] }),
    ),
    share(
      "Width",
      "Half its width, of the picture's width.",
      (s) => s.radii[0],
      (s, r) => ({ ...s, radii: [r, s.radii[1]] }),
      [0.005, 1, 0.12],
    ),
    share(
      "Height",
      "Half its height, of the picture's width.",
      (s) => s.radii[1],
      (s, r) => ({ ...s, radii: [s.radii[0], r] }),
      [0.005, 1, 0.12],
    ),
    inUnit(
      "Angle",
      "Turned against the clock.",
      "\u00b0",
      [-90, 90, 1, 0],
      (s) => s.angle,
      (s, angle) => ({ ...s, angle }),
    ),
    share(
      "Softness",
      "How much of it fades.",
      (s) => s.feather,
      (s, feather) => ({ ...s, feather }),
    ),
  ],
  tones: [
    inUnit(
      "Darkest",
      "From this light on, against the scene's middle.",
      "EV",
      [-10, 10, 0.1, -1],
      (s) => s.from,
      (s, from) => ({ ...s, from }),
    ),
    inUnit(
      "Lightest",
      "Up to this light.",
      "EV",
      [-10, 10, 0.1, 1],
      (s) => s.to,
      (s, to) => ({ ...s, to }),
    ),
    inUnit(
      "Fades over",
      "How softly either end fades.",
      "EV",
      [0.05, 4, 0.05, 0.7],
      (s) => s.fade,
      (s, fade) => ({ ...s, fade }),
    ),
  ],
  colours: [
    inUnit(
      "Hue",
      "Its middle.",
      "\u00b0",
      [0, 360, 1, 0],
      (s) => s.hue,
      (s, hue) => ({ ...s, hue }),
    ),
    inUnit(
      "Reach",
      "To either side of it.",
      "\u00b0",
      [5, 180, 1, 28],
      (s) => s.reach,
      (s, reach) => ({ ...s, reach }),
    ),
    inUnit(
      "Least colour",
      "What is duller is left out.",
      "",
      [0, 0.3, 0.01, 0.05],
      (s) => s.least,
      (s, least) => ({ ...s, least }),
    ),
  ],
  sample: [
    share(
      "Reach",
      "How far around the place, of the picture's width.",
      (s) => s.reach,
      (s, reach) => ({ ...s, reach }),
      [0.01, 1.5, 0.25],
    ),
    inUnit(
      "Tolerance",
      "How unlike the place something may be.",
      "\u00d7",
      [0.1, 4, 0.05, 1],
      (s) => s.tolerance,
      (s, tolerance) => ({ ...s, tolerance }),
    ),
  ],
};

const JOININGS = [
  { value: "add", text: "Add" },
  { value: "subtract", text: "Subtract" },
  { value: "intersect", text: "Overlap" },
] as const;

/** What of a shape can be set after it was drawn. */
export function ShapeSettings({ shape, number, onShow, onKeep }: Props) {
  const dimensions = DIMENSIONS[shape.type] as readonly Dimension<KeptShape>[];
  return (
    <>
      <Choice
        label="Joins"
        hint="Adds to the shapes before it, takes from them, or keeps what both have."
        value={shape.joining}
        options={JOININGS}
        onChange={(joining) => onKeep({ ...shape, joining })}
      />
      {dimensions.map(({ label, hint, unit, times, digits, min, max, step, rest, get, set }) => (
        <NumberSlider
          key={label}
          label={label}
          name={`${label} of shape ${number}`}
          hint={hint}
          unit={unit}
          min={min}
          max={max}
          step={step}
          reset={rest}
          shown={(v) => (v * times).toFixed(digits)}
          parse={(n) => n / times}
          value={get(shape)}
          onChange={(v) => onShow(set(shape, v))}
          onCommit={(v) => onKeep(set(shape, v))}
        />
      ))}
    </>
  );
}
