import * as v from "valibot";

/** A number within bounds, both allowed. */
export const range = (lo: number, hi: number) => v.pipe(v.number(), v.minValue(lo), v.maxValue(hi));
