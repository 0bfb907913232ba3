import { useEffect, useRef } from "react";

/**
 * Keys of a screen: "z", "Ctrl+z", "Ctrl+Shift+z", "ArrowDown", "Alt+ArrowDown". Not while text is
 * typed or a dialog is open.
 */
export function useKeys(
  keys: Record<string, (e: KeyboardEvent) => void>,
  released?: Record<string, () => void>,
): void {
  const latest = useRef({ keys, released });
  useEffect(() => {
    latest.current = { keys, released };
  });
  useEffect(() => {
    const busy = (e: KeyboardEvent): boolean => {
      const t = e.target as HTMLElement;
      // a control that was gone to by key is pressed by key; one that was clicked only kept the
      // focus
      if (
        (e.key === "Enter" || e.key === " ") &&
        (t.matches?.(":focus-visible") || t.closest?.("[aria-haspopup]")) &&
        t.closest("button, a[href], summary, input, [role=button], [role=radio], [role=slider]")
      )
        return true;
      // and one that is moved by these keys keeps them
      if (
        /^(Arrow|Page|Home|End)/.test(e.key) &&
        !e.altKey &&
        t.closest?.("[role=slider], [role=radio], [role=separator], [role=toolbar] button")
      )
        return true;
      // letters choose from a list that has the focus, or is open
      if (
        !e.ctrlKey &&
        !e.metaKey &&
        !e.altKey &&
        t.closest?.("[role=combobox], [role=listbox], [role=menu]")
      )
        return true;
      return Boolean(t.closest?.("input:not([type=checkbox]), textarea, select, [role=dialog]"));
    };
    const down = (e: KeyboardEvent): void => {
      if (busy(e)) return;
      const name = `${e.ctrlKey || e.metaKey ? "Ctrl+" : ""}${e.altKey ? "Alt+" : ""}${(e.shiftKey && e.key.length > 1) || (e.shiftKey && (e.ctrlKey || e.metaKey)) ? "Shift+" : ""}${e.key.length === 1 ? e.key.toLowerCase() : e.key}`;
      const f = latest.current.keys[name];
      if (f) {
        e.preventDefault();
        f(e);
      }
    };
    const up = (e: KeyboardEvent): void => {
      latest.current.released?.[e.key.length === 1 ? e.key.toLowerCase() : e.key]?.();
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);
}
