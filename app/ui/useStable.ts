import { useState } from "react";

/**
 * The same object as before for as long as its content is the same, so that what depends on it is
 * not done again.
 */
export function useStable<T>(value: T): T {
  const [held, setHeld] = useState(value);
  if (held === value || JSON.stringify(held) === JSON.stringify(value)) return held;
  setHeld(value);
  return value;
}
