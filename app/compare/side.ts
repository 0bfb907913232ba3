import * as v from "valibot";

/** What is compared: a take, a frame, a look over the open take, or another stack's result. */
export type SideChoice =
  | { what: "take"; id: string }
  | { what: "frame"; id: string }
  | { what: "look"; id: string; amount: number }
  | { what: "stack"; id: string };

/** At most so many at once. */
export const MOST_SIDES = 4;
export const LEAST_SIDES = 2;

const AmountSchema = v.pipe(v.number(), v.minValue(0), v.maxValue(1.5));
const WhatSchema = v.picklist(["take", "frame", "look", "stack"]);

/** A side as an address has it: `take:ID`, `look:ID:0.8`. */
export function sideText(side: SideChoice): string {
  const text = `${side.what}:${encodeURIComponent(side.id)}`;
  return side.what === "look" ? `${text}:${side.amount}` : text;
}

/** Reads a side; undefined where it is none. */
export function parseSide(text: string): SideChoice | undefined {
  const [what, id, far = "1"] = text.split(":");
  const kind = v.safeParse(WhatSchema, what);
  if (!kind.success || !id) return undefined;
  const name = decodeURIComponent(id);
  if (kind.output !== "look") return { what: kind.output, id: name };
  const amount = v.safeParse(AmountSchema, Number(far));
  return { what: "look", id: name, amount: amount.success ? amount.output : 1 };
}
