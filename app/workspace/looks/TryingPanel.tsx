import { useMemo, useState } from "react";
import { useNavigate, useRevalidator } from "react-router";
import { RhizomeError } from "../../../core/error";
import { looksSaid, makeLook } from "../../../pipeline/looks/makeLook";
import { addLooks, updateLook } from "../../store/looks";
import { Button } from "../../ui/Button";
import { NumberSlider } from "../../ui/NumberSlider";
import { WordField } from "../../ui/WordField";
import { applyAsNewTake, applyChosen, setAmount, toggleTrying } from "../actions/looks";
import { AS_IT_IS, triedLooks } from "../../looks/tried";
import type { View } from "../state/view";
import { useRecipe, useRecord, useWorkspace } from "../state/workspace";

/** The looks that are tried on, and what is done with the chosen one. */
export function TryingPanel({ trying }: { trying: NonNullable<View["trying"]> }) {
  const workspace = useWorkspace();
  const { looks } = useRecord();
  const tried = triedLooks(looks, trying.amounts);
  const at = tried.findIndex(({ id }) => id === trying.chosen);
  return (
    <section aria-label="Looks" className="p-4">
      <div className="mb-2 flex items-center">
        <h2 className="grow font-semibold">Looks</h2>
        <span className="text-[12px] text-quiet">
          {at + 1} of {tried.length}
        </span>
        <Button
          variant="plain"
          className="ml-2 h-6 px-2"
          hint="Back to the recipe (Esc)"
          onClick={() => toggleTrying(workspace)}
        >
          Close
        </Button>
      </div>
      <ul className="-mx-2">
        {tried.map(({ id, name, look, amount }) => (
          <li
            key={id}
            className={`border-l-[3px] ${id === trying.chosen ? "border-accent bg-raised" : "border-transparent"}`}
          >
            <button
              type="button"
              aria-pressed={id === trying.chosen}
              className="grid w-full grid-cols-[1fr_auto] gap-x-2 px-2 py-1 text-left"
              onClick={() => workspace.view.setState({ trying: { ...trying, chosen: id } })}
            >
              <span className="truncate">{name}</span>
              <span className="tabular-nums text-quiet">
                {look ? `${Math.round(amount * 100)}\u00a0%` : ""}
              </span>
              {look?.note && (
                <span className="col-span-2 truncate text-[12px] text-quiet">{look.note}</span>
              )}
            </button>
          </li>
        ))}
      </ul>
      <ChosenLook trying={trying} />
      <KeepLook />
    </section>
  );
}

/** How far the chosen look goes, and where to. */
function ChosenLook({ trying }: { trying: NonNullable<View["trying"]> }) {
  const workspace = useWorkspace();
  const navigate = useNavigate();
  const hands = useMemo(() => ({ workspace, navigate }), [workspace, navigate]);
  const { looks } = useRecord();
  const { chosen, amounts } = trying;
  const listed = looks.find(({ id }) => id === chosen);
  if (!listed || chosen === AS_IT_IS) return null;
  const set = (amount: number): void => setAmount(workspace, chosen, amount);
  return (
    <div className="mt-3 border-t border-line pt-3">
      <div className="mb-1 flex items-baseline gap-2">
        <h3 className="grow truncate font-semibold">{listed.look.name}</h3>
        <span className="shrink-0 text-[12px] text-quiet">sets {looksSaid(listed.look)}</span>
      </div>
      <NumberSlider
        label="Amount"
        hint="How far the look goes: beyond 100 % further than it was made."
        unit="%"
        shown={(v) => String(Math.round(v * 100))}
        parse={(n) => n / 100}
        min={0}
        max={1.5}
        step={0.05}
        reset={1}
        value={amounts[chosen] ?? 1}
        onChange={set}
        onCommit={set}
      />
      <div className="mt-2 flex gap-2">
        <Button variant="accent" hint="To this take (Enter)" onClick={() => applyChosen(workspace)}>
          Apply
        </Button>
        <Button
          hint="A take of its own with it (Shift Enter)"
          onClick={() => void applyAsNewTake(hands)}
        >
          As a new take
        </Button>
      </div>
    </div>
  );
}

/** Keeps what this take does to tone and finish as a look. */
function KeepLook() {
  const { view } = useWorkspace();
  const recipe = useRecipe();
  const { looks } = useRecord();
  const { revalidate } = useRevalidator();
  const chosen = looks.find(({ id, isOwn }) => isOwn && id === view.getState().trying?.chosen);
  const [isNaming, setNaming] = useState(false);
  const done = (work: Promise<void>): void =>
    void work
      .catch((e: unknown) => view.setState({ note: RhizomeError.from(e).sentence }))
      .then(revalidate);
  const named = (name: string | undefined): void => {
    setNaming(false);
    if (name) done(addLooks([makeLook(recipe, name)]));
  };
  return (
    <div className="mt-3 flex flex-wrap gap-2 border-t border-line pt-3">
      {isNaming ? (
        <WordField name="Name of the look" text="" longest={80} onWritten={named} />
      ) : (
        <Button
          hint="Tone, finish and parts of this take under a name; exposure stays with the picture"
          onClick={() => setNaming(true)}
        >
          Keep this take as a look
        </Button>
      )}
      {chosen && (
        <Button
          hint={`${chosen.look.name} becomes what this take is`}
          onClick={() =>
            done(updateLook(chosen.id, makeLook(recipe, chosen.look.name, chosen.look.note)))
          }
        >
          Update {chosen.look.name}
        </Button>
      )}
    </div>
  );
}
