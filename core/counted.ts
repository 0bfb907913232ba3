/** A number of things, in the singular for one. */
export const counted = (n: number, thing: string): string => `${n} ${thing}${n === 1 ? "" : "s"}`;
