import { OutputFacts } from "./OutputFacts";
import type { Cell, PlannedStack } from "./plan";
import { Sheet } from "./Sheet";
import { TrueSize } from "./TrueSize";

/** The file at the cursor: on its paper, to scale, and what it will be. */
export function ChosenFile({ planned, cell }: { planned: PlannedStack; cell: Cell | undefined }) {
  if (!cell) return <p className="text-quiet">This stack has no such file.</p>;
  const { layout, delivery } = cell;
  return (
    <>
      <h2 className="mb-2 font-semibold">{layout.paper ? "On paper" : "The file"}</h2>
      <Sheet planned={planned} cell={cell} />
      <OutputFacts layout={layout} settings={delivery.settings} expected={() => planned.expected} />
      {!planned.isMerged && (
        <p className="mt-2 text-[12px] text-quiet">
          It is not merged yet: sizes are those of its largest frame.
        </p>
      )}
      <TrueSize planned={planned} cell={cell} />
    </>
  );
}
