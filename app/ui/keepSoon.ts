/** Keys that go on with a run; any other one, undo's first of all, finds the change kept. */
const STEERING = /^(Arrow|Page|Home|End|Shift)/;
/** A pause as long as this ends a run of key presses or wheel turns. */
const PAUSE_MS = 350;

/** A value that waits until a run of presses ends. */
export interface KeepSoon<T> {
  /** takes a value in place of the one that waits */
  soon: (value: T) => void;
  /** keeps what waits */
  now: () => void;
  /** forgets what waits */
  drop: () => void;
  /** what waits */
  due: () => T | undefined;
  /** follows the page's keys. @returns ends that, and keeps what waits */
  listen: () => () => void;
}

/**
 * A run of key presses or wheel turns is one change: kept when it pauses, at any other key, and
 * when what it is about goes. A key that is held down does not pause, however late its repeats
 * come on a busy machine.
 */
export function keepSoon<T>(keep: (value: T) => void): KeepSoon<T> {
  let waiting: { value: T } | undefined;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let keyIsDown = false;
  const drop = (): void => {
    clearTimeout(timer);
    waiting = undefined;
  };
  const now = (): void => {
    const due = waiting;
    drop();
    if (due) keep(due.value);
  };
  const keepAfterPause = (): void => {
    clearTimeout(timer);
    if (waiting && !keyIsDown) timer = setTimeout(now, PAUSE_MS);
  };
  const pressed = (e: KeyboardEvent): void => {
    const steers = STEERING.test(e.key);
    keyIsDown = steers && e.key !== "Shift";
    if (!steers) now();
  };
  const released = (e: KeyboardEvent): void => {
    if (e.key === "Shift") return;
    keyIsDown = false;
    keepAfterPause();
  };
  // The release of a key that is held while the window loses the focus is never heard.
  const left = (): void => {
    keyIsDown = false;
    now();
  };
  return {
    soon: (value) => {
      waiting = { value };
      keepAfterPause();
    },
    now,
    drop,
    due: () => waiting?.value,
    listen: () => {
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
    },
  };
}
