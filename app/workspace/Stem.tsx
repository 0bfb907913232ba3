import { memo, useCallback, useMemo } from "react";
import { stepsOf } from "../../pipeline/kindSteps";
import type { StepName } from "../../pipeline/registry";
import { useKept } from "./state/useKept";
import { useRecipe, useRecord, useSession, useView, useWorkspace } from "./state/workspace";
import type { Situation, StepState } from "./steps/step";
import { HelpLink } from "../help/HelpLink";
import type { PageId } from "../help/pages";
import { WholeNumbers } from "../ui/WholeNumbers";
import { STEP_SCREENS } from "./steps/steps";

const WORDS: Record<StepState, string> = {
  fresh: "as it came",
  running: "running",
  done: "done",
  attention: "needs attention",
};

/** The page of the guide about a step. */
const GUIDE: Readonly<Record<StepName, PageId>> = {
  frames: "check-stacks",
  prepare: "prepare",
  align: "merge",
  merge: "merge",
  ghosts: "ghosts",
  panorama: "panoramas",
  retouch: "repair",
  tone: "tone",
  finish: "finish",
  edges: "straighten",
  deliver: "deliver",
};

/** The recipe as a line of nodes, each a sentence that opens into its controls where it stands. */
export function Stem() {
  const { view } = useWorkspace();
  const situation = useSituation();
  const open = useView((v) => v.open);
  const { kind } = situation.recipe;
  const steps = stepsOf(kind);
  const toggle = useCallback(
    (step: StepName): void => view.setState((v) => ({ open: v.open === step ? undefined : step })),
    [view],
  );
  return (
    <ol aria-label="Recipe" className="px-2 pb-6">
      {steps.map((step, i) => {
        const { title, summary } = STEP_SCREENS[step];
        return (
          <StemNode
            key={step}
            step={step}
            title={title(kind)}
            {...summary(situation)}
            isOpen={open === step}
            isLast={i === steps.length - 1}
            onToggle={toggle}
          />
        );
      })}
    </ol>
  );
}

/** What the sentences are written from. */
function useSituation(): Situation {
  const recipe = useRecipe();
  const { frames } = useRecord();
  const session = useSession((s) => s);
  const kept = useKept();
  const { leftOut } = recipe.frames;
  const used = useMemo(
    () => frames.filter((frame) => !leftOut.includes(frame.id)),
    [frames, leftOut],
  );
  return { recipe, frames, used, session, kept };
}

interface NodeProps {
  step: StepName;
  title: string;
  sentence: string;
  state: StepState;
  isOpen: boolean;
  isLast: boolean;
  onToggle: (step: StepName) => void;
}

const StemNode = memo(function StemNode(node: NodeProps) {
  const { step, title, sentence, state, isOpen, isLast, onToggle } = node;
  const { Controls } = STEP_SCREENS[step];
  return (
    <li className={`relative rounded-md ${isOpen ? "bg-raised/50" : ""}`}>
      {!isLast && !isOpen && (
        <span aria-hidden className="absolute bottom-[-10px] left-[17px] top-6 w-px bg-line" />
      )}
      <button
        type="button"
        aria-expanded={isOpen}
        data-testid={`step ${step}`}
        onClick={() => onToggle(step)}
        className="grid w-full grid-cols-[18px_1fr] gap-x-2 rounded px-2 py-1.5 text-left"
      >
        <Mark state={state} />
        <span className="font-semibold">{title}</span>
        <span className="col-start-2 text-quiet">
          <WholeNumbers text={sentence} />
        </span>
      </button>
      {isOpen && (
        <>
          <div className="absolute right-1 top-1">
            <HelpLink page={GUIDE[step]} />
          </div>
          <div className="px-3 pb-3">
            <Controls />
          </div>
        </>
      )}
    </li>
  );
});

function Mark({ state }: { state: StepState }) {
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
