import { useCallback, useEffect, useRef } from "react";

/** Keys that go on with a run; any other one, undo's first of all, finds the change kept. */
const STEERING = /^(Arrow|Page|Home|End|Shift)/;
/** A pause as long as this ends a run of key presses or wheel turns. */
const PAUSE_MS = 350;

/**
 * A run of key presses or wheel turns is one change: kept when it pauses, at any other key, and
 * when what it is about goes. A key that is held down does not pause, however late its repeats
 * come on a busy machine.
 */
export function useKeepSoon<T>(keep: (value: T) => void): {
  soon: (value: T) => void;
  now: () => void;
  drop: () => void;
  /** what is waiting to be kept */
  due: () => T | undefined;
} {
  const waiting = useRef<{ value: T }>(undefined);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const keyIsDown = useRef(false);
  const latest = useRef(keep);
  useEffect(() => {
    latest.current = keep;
  });
  const drop = useCallback((): void => {
    clearTimeout(timer.current);
    waiting.current = undefined;
  }, []);
  const now = useCallback((): void => {
    const due = waiting.current;
    drop();
    if (due) latest.current(due.value);
  }, [drop]);
  const keepAfterPause = useCallback((): void => {
    clearTimeout(timer.current);
    if (waiting.current && !keyIsDown.current) timer.current = setTimeout(now, PAUSE_MS);
  }, [now]);
  const soon = useCallback(
    (value: T): void => {
      waiting.current = { value };
      keepAfterPause();
    },
    [keepAfterPause],
  );
  const due = useCallback((): T | undefined => waiting.current?.value, []);
  useEffect(() => {
    const pressed = (e: KeyboardEvent): void => {
      const steers = STEERING.test(e.key);
      keyIsDown.current = steers && e.key !== "Shift";
      if (!steers) now();
    };
    const released = (e: KeyboardEvent): void => {
      if (e.key === "Shift") return;
      keyIsDown.current = false;
      keepAfterPause();
    };
    // The release of a key that is held while the window loses the focus is never heard.
    const left = (): void => {
      keyIsDown.current = false;
      now();
    };
    window.addEventListener("pagehide", now);
    window.addEventListener("blur", left);
    window.addEventListener("keydown", pressed, true);
    window.addEventListener("keyup", released, true);
    return () => {
      window.removeEventListener("pagehide", now);
      window.removeEventListener("blur", left);
      window.removeEventListener("keydown", pressed, true);
      window.removeEventListener("keyup", released, true);
      now();
    };
  }, [now, keepAfterPause]);
  return { soon, now, drop, due };
}
