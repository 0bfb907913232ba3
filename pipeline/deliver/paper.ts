/** A sheet of paper, its sides in mm, and the unit in which it is told. */
export interface Paper {
  width: number;
  height: number;
  unit: "cm" | "in";
}

export const MM_PER_INCH = 25.4;
/** Sides that paper may have, mm. */
const SHORTEST = 20;
const LONGEST = 10000;

/** Sizes of ISO 216, mm. */
const ISO: Readonly<Record<string, readonly [number, number]>> = {
  A6: [105, 148],
  A5: [148, 210],
  A4: [210, 297],
  A3: [297, 420],
  A2: [420, 594],
  A1: [594, 841],
  A0: [841, 1189],
};

/** Papers that are offered, as they are written. */
export const USUAL_PAPERS: readonly string[] = [
  ...["10x15", "13x18", "20x30", "30x45", "40x60", "60x90"].map((sides) => `${sides} cm`),
  ...Object.keys(ISO).reverse().slice(3),
  ...["4x6", "5x7", "8x10", "11x14", "16x20", "20x30"].map((sides) => `${sides} in`),
];
/** What is written where there is no paper. */
export const NO_PAPER = "none";

const SIDES = /^(\d+(?:[.,]\d+)?) ?[x×] ?(\d+(?:[.,]\d+)?) ?(mm|cm|in)$/i;
const MM_OF = { mm: 1, cm: 10, in: MM_PER_INCH } as const;

/** A paper as it is written: A4, 30x45 cm, 8x10 in, 210x297 mm. */
export function parsePaper(text: string): Paper | undefined {
  const written = text.trim();
  const iso = ISO[written.toUpperCase()];
  if (iso) return { width: iso[0], height: iso[1], unit: "cm" };
  const [, one, other, unit] = SIDES.exec(written) ?? [];
  if (!one || !other || !unit) return undefined;
  const by = MM_OF[unit.toLowerCase() as keyof typeof MM_OF];
  const [width, height] = [one, other].map((side) => Number(side.replace(",", ".")) * by) as [
    number,
    number,
  ];
  if (Math.min(width, height) < SHORTEST || Math.max(width, height) > LONGEST) return undefined;
  return { width, height, unit: by === MM_PER_INCH ? "in" : "cm" };
}

/** A length in mm in the unit in which a paper is told. */
export const inUnit = (mm: number, { unit }: Pick<Paper, "unit">): number =>
  unit === "in" ? mm / MM_PER_INCH : mm / 10;
