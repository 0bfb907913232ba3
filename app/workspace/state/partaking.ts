import { useMemo } from "react";
import type { WorkFrame } from "../../store/shoots";
import { useRecipe, useRecord, type Workspace } from "./workspace";

/** A frame that takes part in the merge. */
export interface Partaking {
  id: string;
  name: string;
  /** px */
  width: number;
  height: number;
}

const partakingOf = (frames: readonly WorkFrame[], leftOut: readonly string[]): Partaking[] =>
  frames
    .filter((frame) => !leftOut.includes(frame.id))
    .map(({ id, info: { name, width, height } }) => ({ id, name, width, height }));

/** The frames that take part, in the stack's order. */
export function usePartaking(): Partaking[] {
  const { frames } = useRecord();
  const { leftOut } = useRecipe().frames;
  return useMemo(() => partakingOf(frames, leftOut), [frames, leftOut]);
}

/** The same at the moment. */
export const partakingNow = ({ record, recipe }: Workspace): Partaking[] =>
  partakingOf(record().frames, recipe().frames.leftOut);
