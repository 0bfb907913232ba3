import { createStore } from "zustand/vanilla";
import type { RhizomeError } from "../../core/error";
import type { BringInState } from "../store/bringIn";

export interface Bringing {
  state?: BringInState;
  error?: RhizomeError;
  stopper?: AbortController;
}

/**
 * What is being brought in, for as long as the page lives: it goes on while one walks through the
 * screens.
 */
export const bringing = createStore<Bringing>(() => ({}));

/** Something else is brought in, or how far it is. */
export const setBringing = (next: Bringing): void => bringing.setState(next, true);

/** Frames are brought into a shoot no more: it is gone. */
export function stopBringingInto(shoot: string): void {
  const { state, stopper } = bringing.getState();
  if (state?.shootId === shoot) stopper?.abort();
}
