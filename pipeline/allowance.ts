/**
 * How long reading a file may take before it is given up, ms: some hundred times what it takes on
 * an idle machine, for machines are busy and old.
 */
const READING_MS = 30000;
const MS_A_PX = 4e-3;
const MS_A_BYTE = 2e-3;

/** For decoding a frame. @param size  of the whole frame, px */
export const decodingAllowance = ({ width, height }: { width: number; height: number }): number =>
  READING_MS + width * height * MS_A_PX;

/** For finding out what a file is. @param bytes  that it has, where that is known */
export const inspectingAllowance = (bytes = 50e6): number => READING_MS + bytes * MS_A_BYTE;
