import { useFetcher } from "react-router";
import type { HistoryState } from "../store/changes";
import { useCommands } from "../commands/commands";
import { Button } from "./Button";
import { useKeys } from "./useKeys";

/** Undo and redo of a shoot's changes; its route's action takes `intent` undo and redo. */
export function History({ state }: { state: HistoryState }) {
  const fetcher = useFetcher();
  const go = (intent: "undo" | "redo"): void => {
    void fetcher.submit({ intent }, { method: "post", encType: "application/json" });
  };
  // always asked for: a change made a moment ago may not be stored, nor known here, yet
  useKeys({
    "Ctrl+z": () => go("undo"),
    "Ctrl+Shift+z": () => go("redo"),
    "Ctrl+y": () => go("redo"),
  });
  useCommands(() => [
    {
      name: "Changes",
      commands: [
        {
          text: "Undo",
          keys: "Ctrl Z",
          disabled: !state.undo,
          ...(state.undo ? { hint: state.undo } : {}),
          run: () => go("undo"),
        },
        {
          text: "Redo",
          keys: "Ctrl Shift Z",
          disabled: !state.redo,
          ...(state.redo ? { hint: state.redo } : {}),
          run: () => go("redo"),
        },
      ],
    },
  ]);
  return (
    <>
      <Button
        disabled={!state.undo || fetcher.state !== "idle"}
        onClick={() => go("undo")}
        aria-description={state.undo}
        hint={state.undo ? `Undo: ${state.undo}` : "Nothing to undo"}
      >
        Undo
      </Button>
      <Button
        disabled={!state.redo || fetcher.state !== "idle"}
        onClick={() => go("redo")}
        aria-description={state.redo}
        hint={state.redo ? `Redo: ${state.redo}` : "Nothing to redo"}
      >
        Redo
      </Button>
    </>
  );
}
