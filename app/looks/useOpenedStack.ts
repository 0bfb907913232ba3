import { useEffect, useState } from "react";
import { useStore } from "zustand";
import type { StackData } from "../store/shoots";
import { StackSession } from "../work/session";
import type { SessionState } from "../work/sessionState";
import { stackFrames } from "../work/stackWork";

/** A stack that is merged to look at it, and how far that is. */
export function useOpenedStack(data: StackData): { session: StackSession; state: SessionState } {
  const [session] = useState(() => new StackSession(stackFrames(data.frames, data.originals)));
  useEffect(() => () => session.close(), [session]);
  useEffect(() => session.update(data.take.recipe), [session, data.take.recipe]);
  return { session, state: useStore(session.store) };
}
