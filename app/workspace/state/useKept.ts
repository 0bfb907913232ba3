import { useMemo } from "react";
import type { Kept } from "../../work/sessionState";
import { useRecipe, useSession, useWorkspace } from "./workspace";

/** The part of the picture that goes out, once the frames have their places. */
export function useKept(): Kept | undefined {
  const { session } = useWorkspace();
  const { edges } = useRecipe();
  const placed = useSession((s) => s.layout ?? s.aligned);
  const size = useSession((s) => s.size);
  return useMemo(
    () => session.keptOf(edges),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [session, placed, size, edges],
  );
}
