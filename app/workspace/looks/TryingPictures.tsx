import { LookGrid } from "../../looks/LookGrid";
import { applyChosen, setAmount } from "../actions/looks";
import { pageOf, triedLooks } from "../../looks/tried";
import type { View } from "../state/view";
import { useRecipe, useRecord, useSession, useWorkspace } from "../state/workspace";

/** The picture under several looks, in its own place. */
export function TryingPictures({ trying }: { trying: NonNullable<View["trying"]> }) {
  const workspace = useWorkspace();
  const { session, view } = workspace;
  const recipe = useRecipe();
  const { looks } = useRecord();
  const ready = useSession((s) => `${s.phase} ${s.settled} ${s.preview?.width}`);
  const tried = triedLooks(looks, trying.amounts);
  return (
    <div className="min-h-0 bg-ground">
      <LookGrid
        session={session}
        recipe={recipe}
        tried={pageOf(tried, trying.chosen)}
        chosen={trying.chosen}
        ready={ready}
        onChoose={(chosen) =>
          view.setState((v) => (v.trying ? { trying: { ...v.trying, chosen } } : {}))
        }
        onAmount={(id, amount) => setAmount(workspace, id, amount)}
        onApply={() => applyChosen(workspace)}
        onNumbers={(id, numbers) =>
          view.setState((v) =>
            v.trying
              ? { trying: { ...v.trying, numbers: { ...v.trying.numbers, [id]: numbers } } }
              : {},
          )
        }
      />
    </div>
  );
}
