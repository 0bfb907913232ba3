import { baseAndDetail } from "./baseAndDetail";
import { global } from "./global";
import { local } from "./local";
import type { ToneOperator } from "./operator";

/** Every tone operator, local ones first: one is a file and a row here. */
export const TONE_OPERATORS = {
  local: { name: "Local", sentence: "Local, edges kept", hasDetail: true, run: local },
  base: { name: "Base", sentence: "Base and detail", hasDetail: true, run: baseAndDetail },
  global: { name: "Global", sentence: "One curve", hasDetail: false, run: global },
} as const satisfies Record<string, ToneOperator>;

export type Operator = keyof typeof TONE_OPERATORS;
export const OPERATORS = Object.keys(TONE_OPERATORS) as Operator[];
