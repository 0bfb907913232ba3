export interface Warning {
  code: string;
  message: string;
}
export type StackKind = "bracket" | "panorama" | "focus" | "single";

/**
 * A stack as found: its frames in capture order; of a nested one, the stacks it is made of as well.
 */
export interface FoundStack {
  kind: StackKind;
  frames: number[];
  why: string;
  warnings: Warning[];
  members?: FoundStack[];
  /** of a panorama: which frames (or members) make a row */
  rows?: number[][];
}
