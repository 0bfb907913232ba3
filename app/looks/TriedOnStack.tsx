import { useState } from "react";
import type { ListedLook } from "../store/looks";
import type { StackData } from "../store/shoots";
import { Button } from "../ui/Button";
import { ProgressBar } from "../ui/ProgressBar";
import { AS_IT_IS, pageOf, triedLooks } from "./tried";
import { LookGrid } from "./LookGrid";
import { LookNumbers } from "./LookNumbers";
import type { PictureNumbers } from "../../core/tone/pictureNumbers";
import { useOpenedStack } from "./useOpenedStack";

/** The looks on a result of the user's own, several at a time. */
export function TriedOnStack({
  data,
  looks,
  chosen,
  onChoose,
}: {
  data: StackData;
  looks: readonly ListedLook[];
  chosen: string;
  onChoose: (id: string) => void;
}) {
  const { session, state } = useOpenedStack(data);
  const [amounts, setAmounts] = useState<Readonly<Record<string, number>>>({});
  const [numbers, setNumbers] = useState<Readonly<Record<string, PictureNumbers>>>({});
  const tried = triedLooks(looks, amounts);
  return (
    <>
      <div className="relative min-h-0 bg-ground">
        {state.phase === "ready" ? (
          <LookGrid
            session={session}
            recipe={data.take.recipe}
            tried={pageOf(tried, chosen)}
            chosen={chosen}
            ready={`${state.phase} ${state.settled}`}
            onChoose={onChoose}
            onAmount={(id, to) => {
              if (id !== AS_IT_IS) setAmounts((was) => ({ ...was, [id]: to }));
            }}
            onApply={onChoose}
            onNumbers={(id, own) => setNumbers((was) => ({ ...was, [id]: own }))}
          />
        ) : (
          <div className="mx-auto mt-40 max-w-sm text-center">
            {state.error ? (
              <div role="alert">
                <p>{state.error.sentence}</p>
                <Button className="mt-3" onClick={() => session.retry(data.take.recipe)}>
                  Try again
                </Button>
              </div>
            ) : (
              <div role="status">
                <p className="mb-2 text-quiet">{state.doing || "Opening"}</p>
                <ProgressBar share={state.share} name={`Merging ${data.stack.name}`} />
              </div>
            )}
          </div>
        )}
      </div>
      <aside className="overflow-y-auto border-l border-line bg-panel">
        <LookNumbers tried={tried} numbers={numbers} />
      </aside>
    </>
  );
}
