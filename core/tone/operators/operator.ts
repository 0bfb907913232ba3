import type { Heap } from "../../../kernels/heap";
import type { ToneGrid } from "../toneGrid";

/** What a tone operator works on: log2 luminance of the tone grid, and what was made of it. */
export interface OperatorInput {
  heap: Heap;
  grid: ToneGrid;
  /** address of what toneBasis made of the grid */
  basis: number;
  strength: number;
  detail: number;
  /** where the toned plane goes, n floats: EV, display white at 0 */
  to: number;
}

/** A tone operator. */
export interface ToneOperator {
  /** as it is chosen, and as a sentence names what it did */
  name: string;
  sentence: string;
  /** whether it tells texture from large differences, so that detail can be set */
  hasDetail: boolean;
  run(input: OperatorInput): void;
}
