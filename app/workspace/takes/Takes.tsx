import { useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { Toolbar } from "radix-ui";
import type { Take } from "../../store/records";
import { ActionMenu } from "../../ui/ActionMenu";
import { Button } from "../../ui/Button";
import { WordField } from "../../ui/WordField";
import {
  changedSince,
  changeTakes,
  compareTakes,
  keepAsNew,
  newTake,
  openTake,
  updateTake,
  type TakeHands,
} from "../actions/takes";
import { toggleTrying } from "../actions/looks";
import { saveRecipe, takeFromFile } from "../actions/recipeFiles";
import { useRecipe, useRecord, useView, useWorkspace } from "../state/workspace";

/** What is being written of a take. */
type Writing = { take: string; what: "name" | "note" } | undefined;

/** The takes of the stack: which is open, which is delivered. */
export function Takes() {
  const workspace = useWorkspace();
  const navigate = useNavigate();
  const hands = useMemo(() => ({ workspace, navigate }), [workspace, navigate]);
  const { takes, take: open, stack } = useRecord();
  const [writing, setWriting] = useState<Writing>();
  const recipeFile = useRef<HTMLInputElement>(null);
  useOpened(open);
  return (
    <section aria-label="Takes" className="px-4 pb-2 pt-3">
      <div className="flex items-center gap-2">
        <h2 className="grow font-semibold">
          {takes.length > 1 ? `${takes.length} takes` : "Take"}
        </h2>
        <Button
          variant="plain"
          className="h-7 px-2"
          hint="Tries looks on this picture, several at once (Z)"
          onClick={() => toggleTrying(workspace)}
        >
          Looks
        </Button>
        <Button
          variant="plain"
          className="h-7 px-2"
          hint="This take with another, a frame, a look or another stack (Alt C)"
          onClick={() => compareTakes(hands)}
        >
          Compare
        </Button>
        <Toolbar.Root aria-label="New takes">
          <ActionMenu
            name="New"
            label="New take"
            groups={[
              {
                actions: [
                  {
                    text: "From this one",
                    keys: "Alt N",
                    onSelect: () => void newTake(hands, "this"),
                  },
                  { text: "From default", onSelect: () => void newTake(hands, "default") },
                  { text: "From a recipe file", onSelect: () => recipeFile.current!.click() },
                ],
              },
            ]}
          />
        </Toolbar.Root>
        <input
          ref={recipeFile}
          type="file"
          accept=".json,application/json"
          aria-label="Take from a file"
          className="hidden"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) void takeFromFile(hands, file);
          }}
        />
      </div>
      <ul className="-mx-2 max-h-52 overflow-y-auto">
        {takes.map((take) => (
          <TakeRow
            key={take.id}
            take={take}
            hands={hands}
            isOpen={take.id === open.id}
            isDelivered={take.id === stack.takeId}
            isOnly={takes.length === 1}
            writing={writing?.take === take.id ? writing.what : undefined}
            onWrite={(what) => setWriting(what && { take: take.id, what })}
          />
        ))}
      </ul>
      <Changed hands={hands} />
    </section>
  );
}

/** Notes what a take was when it was opened. */
function useOpened(open: Take): void {
  const { view } = useWorkspace();
  useEffect(() => {
    view.setState(({ opened }) =>
      opened[open.id] ? {} : { opened: { ...opened, [open.id]: open.recipe } },
    );
  }, [view, open]);
}

/** What to do with what was changed since the take was opened. */
function Changed({ hands }: { hands: TakeHands }) {
  const { workspace } = hands;
  const recipe = useRecipe();
  const { take } = useRecord();
  const opened = useView((v) => v.opened);
  if (!changedSince(opened, take.id, recipe)) return null;
  return (
    <div className="flex items-center gap-1 pt-1 text-[12px]">
      <span className="grow text-quiet">Changed</span>
      <Button
        className="h-6 px-2"
        hint="This is what the take is from now on (Alt U)"
        onClick={() => updateTake(workspace)}
      >
        Update it
      </Button>
      <Button
        className="h-6 px-2"
        hint="Keeps the changes as a take of their own; this one goes back (Alt K)"
        onClick={() => void keepAsNew(hands)}
      >
        Keep as new
      </Button>
    </div>
  );
}

interface RowProps {
  take: Take;
  hands: TakeHands;
  isOpen: boolean;
  isDelivered: boolean;
  isOnly: boolean;
  writing: "name" | "note" | undefined;
  onWrite: (what: "name" | "note" | undefined) => void;
}

function TakeRow({ take, hands, isOpen, isDelivered, isOnly, writing, onWrite }: RowProps) {
  const remove = (): void => {
    const { takes } = hands.workspace.record();
    const at = takes.findIndex(({ id }) => id === take.id);
    const next = takes[at ? at - 1 : 1];
    void changeTakes(
      hands,
      { intent: "delete take", take: take.id },
      isOpen ? next?.id : undefined,
    );
  };
  const move = (by: -1 | 1): void =>
    void changeTakes(hands, { intent: "move take", take: take.id, by });
  const deliver = (): void => void changeTakes(hands, { intent: "deliver take", take: take.id });
  const onKeyDown = (e: React.KeyboardEvent): void => {
    const acts: Record<string, () => void> = {
      F2: () => onWrite("name"),
      "Shift F2": () => onWrite("note"),
      ...(isOnly ? {} : { Delete: remove }),
      "Alt ArrowUp": () => move(-1),
      "Alt ArrowDown": () => move(1),
    };
    const act = acts[`${e.altKey ? "Alt " : ""}${e.shiftKey ? "Shift " : ""}${e.key}`];
    if (!act) return;
    e.preventDefault();
    e.stopPropagation();
    act();
  };
  const written = (text: string | undefined): void => {
    onWrite(undefined);
    if (text === undefined) return;
    void changeTakes(hands, { intent: "describe take", take: take.id, [writing!]: text });
  };
  return (
    <li
      className={`flex items-center gap-2 border-l-2 pl-1.5 pr-1 ${isOpen ? "border-accent bg-raised" : "border-transparent"}`}
    >
      {writing ? (
        <WordField
          name={writing === "name" ? "Name of the take" : "Description of the take"}
          text={take[writing]}
          longest={writing === "name" ? 100 : 400}
          mayBeEmpty={writing === "note"}
          onWritten={written}
        />
      ) : (
        <button
          type="button"
          aria-pressed={isOpen}
          className="flex min-h-7 min-w-0 grow flex-col justify-center rounded text-left pointer-coarse:min-h-10"
          onClick={() => openTake(hands, take.id)}
          onDoubleClick={() => onWrite("name")}
          onKeyDown={onKeyDown}
        >
          <span className="w-full truncate">{take.name}</span>
          {take.note && <span className="w-full truncate text-[12px] text-quiet">{take.note}</span>}
        </button>
      )}
      {isDelivered && !isOnly && <span className="shrink-0 text-[12px] text-quiet">delivered</span>}
      {isOpen && (
        <Toolbar.Root aria-label={`Acts on ${take.name}`}>
          <ActionMenu
            name=""
            label={`More for ${take.name}`}
            hint="More for this take"
            groups={[
              {
                actions: [
                  { text: "Deliver this one", disabled: isDelivered, onSelect: deliver },
                  { text: "Rename", keys: "F2", onSelect: () => onWrite("name") },
                  { text: "Describe", keys: "Shift F2", onSelect: () => onWrite("note") },
                  { text: "Save its recipe", onSelect: () => saveRecipe(hands.workspace) },
                  { text: "Move up", keys: "Alt \u2191", onSelect: () => move(-1) },
                  { text: "Move down", keys: "Alt \u2193", onSelect: () => move(1) },
                ],
              },
              {
                actions: [{ text: "Delete", keys: "Delete", disabled: isOnly, onSelect: remove }],
              },
            ]}
          />
        </Toolbar.Root>
      )}
    </li>
  );
}
