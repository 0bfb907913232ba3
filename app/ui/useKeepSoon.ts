import { useCallback, useEffect, useRef } from "react";

/** Keys that go on with a run; any other one, undo's first of all, finds the change kept. */
const STEERING = /^(Arrow|Page|Home|End|Shift)/;
/** A pause as long as this ends a run of key presses or wheel turns. */
const PAUSE_MS = 350;

/**
 * A run of key presses or wheel turns is one change: kept when it pauses, at any other key, and
 * when what it is about goes.
 */
export function useKeepSoon<T>(keep: (value: T) => void): {
  soon: (value: T) => void;
  now: () => void;
  drop: () => void;
  /** what is waiting to be kept */
  due: () => T | undefined;
} {
  const later = useRef<{ timer: ReturnType<typeof setTimeout>; value: T }>(undefined);
  const latest = useRef(keep);
  useEffect(() => {
    latest.current = keep;
  });
  const drop = useCallback((): void => {
    clearTimeout(later.current?.timer);
    later.current = undefined;
  }, []);
  const now = useCallback((): void => {
    const due = later.current;
    drop();
    if (due) latest.current(due.value);
  }, [drop]);
  const soon = useCallback(
    (value: T): void => {
      drop();
      later.current = { value, timer: setTimeout(now, PAUSE_MS) };
    },
    [drop, now],
  );
  const due = useCallback((): T | undefined => later.current?.value, []);
  useEffect(() => {
    const pressed = (e: KeyboardEvent): void => {
      if (!STEERING.test(e.key)) now();
    };
    window.addEventListener("pagehide", now);
    window.addEventListener("keydown", pressed, true);
    return () => {
      window.removeEventListener("pagehide", now);
      window.removeEventListener("keydown", pressed, true);
      now();
    };
  }, [now]);
  return { soon, now, drop, due };
}
