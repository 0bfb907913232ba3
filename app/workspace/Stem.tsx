import type { StepName } from "../../pipeline/registry";
import type { ReactNode } from "react";

export interface Node {
  name: StepName;
  title: string;
  sentence: string;
  state: "fresh" | "running" | "done" | "attention";
  controls?: ReactNode;
}
const WORDS = {
  fresh: "as it came",
  running: "running",
  done: "done",
  attention: "needs attention",
};

/** The recipe as a line of nodes, each a sentence that opens into its controls where it stands. */
export function Stem({
  nodes,
  open,
  onOpen,
}: {
  nodes: Node[];
  open: string | undefined;
  onOpen: (name: string | undefined) => void;
}) {
  return (
    <ol aria-label="Recipe" className="px-2 pb-6">
      {nodes.map((n, i) => {
        const isOpen = open === n.name;
        return (
          <li key={n.name} className={`relative rounded-md ${isOpen ? "bg-raised/50" : ""}`}>
            {i < nodes.length - 1 && (
              <span
                aria-hidden
                className="absolute bottom-[-10px] left-[17px] top-6 w-px bg-line"
              />
            )}
            <button
              type="button"
              disabled={!n.controls}
              aria-expanded={n.controls ? isOpen : undefined}
              onClick={() => onOpen(isOpen ? undefined : n.name)}
              className="grid w-full grid-cols-[18px_1fr] gap-x-2 rounded px-2 py-1.5 text-left"
            >
              <Mark state={n.state} />
              <span className="font-semibold">{n.title}</span>
              <span className="col-start-2 text-quiet">{n.sentence}</span>
            </button>
            {isOpen && n.controls && <div className="pb-3 pl-9 pr-2">{n.controls}</div>}
          </li>
        );
      })}
    </ol>
  );
}

function Mark({ state }: { state: Node["state"] }) {
  return (
    <svg viewBox="0 0 12 12" role="img" aria-label={WORDS[state]} className="z-10 mt-1 size-3">
      {state === "attention" && <path d="M6 0.5 11.5 6 6 11.5 0.5 6z" fill="var(--accent)" />}
      {state === "running" && (
        <>
          <circle cx="6" cy="6" r="4.5" fill="var(--panel)" stroke="var(--line)" strokeWidth="2" />
          <path
            d="M6 1.5A4.5 4.5 0 0 1 10.5 6"
            fill="none"
            stroke="var(--accent)"
            strokeWidth="2"
          />
        </>
      )}
      {(state === "done" || state === "fresh") && (
        <circle
          cx="6"
          cy="6"
          r="4.5"
          fill={state === "done" ? "var(--quiet)" : "var(--panel)"}
          stroke="var(--quiet)"
          strokeWidth="1.5"
        />
      )}
    </svg>
  );
}
