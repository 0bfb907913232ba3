import type { Heap } from "../../kernels/heap";
import { codeAsHlg, HLG_HEADROOM } from "./hlgCode";
import { codeAsPq } from "./pqCode";

/** Codes of displays that go beyond white: by brightness (SMPTE ST 2084), or hybrid log-gamma. */
export type DisplayCode = "pq" | "hlg";

interface DisplayCodeEntry {
  /** number of its curve (ITU-T H.273, table 3) */
  transfer: number;
  /** how far it goes beyond white, EV */
  headroom: number;
  /** pixels of Rec. 2020 in 16 bits, in place */
  code: (heap: Heap, pixels: number, gains: number, headroom: number, count: number) => void;
}

/** Each code by its name. */
export const DISPLAY_CODE: Readonly<Record<DisplayCode, DisplayCodeEntry>> = {
  pq: { transfer: 16, headroom: Infinity, code: codeAsPq },
  hlg: { transfer: 18, headroom: HLG_HEADROOM, code: codeAsHlg },
};
