import { useRecipe, useSession, useView, useRecord, type Workspace } from "./workspace";
import type { View } from "./view";

/** The frame that the merge is compared with, by its place in the stack. */
export const comparedFrame = (
  { before }: Pick<View, "before">,
  reference: number | undefined,
  frames: number,
): number => before ?? reference ?? Math.floor(frames / 2);

/** The same of the opened stack, at the moment. */
export const comparedNow = ({ view, session, record }: Workspace): number =>
  comparedFrame(view.getState(), session.state.aligned?.reference, record().frames.length);

/**
 * The frame that is shown in place of the merge, or beside it in a wipe. A panorama's frames are
 * looked at on its map.
 */
export function useShownFrame(): number | undefined {
  const { kind } = useRecipe();
  const { frames } = useRecord();
  const reference = useSession((s) => s.aligned?.reference);
  return useView((view) => {
    if (kind === "panorama") return undefined;
    return view.held || view.wipe ? comparedFrame(view, reference, frames.length) : view.pinned;
  });
}
