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
let now: Bringing = {};
const listeners = new Set<() => void>();

export const subscribeBringing = (f: () => void): (() => void) => {
  listeners.add(f);
  return () => listeners.delete(f);
};
export const readBringing = (): Bringing => now;
export function setBringing(next: Bringing): void {
  now = next;
  for (const f of listeners) f();
}
