import { useState } from "react";
import { Toolbar } from "radix-ui";
import type { KeptPart } from "../../../../pipeline/finish/partSchema";
import { ActionMenu } from "../../../ui/ActionMenu";
import { Checkbox } from "../../../ui/Checkbox";
import { plainNumber } from "../../../ui/format";
import {
  deletePart,
  duplicatePart,
  movePart,
  partOf,
  shapesSaid,
  withPart,
} from "../../actions/parts";
import { useRecipe, useView, useWorkspace } from "../../state/workspace";

/** The parts in the order in which they lie over each other, the whole picture first. */
export function PartList() {
  const workspace = useWorkspace();
  const { view, edit } = workspace;
  const recipe = useRecipe();
  const shown = useView((v) => v.part);
  const [renamed, setRenamed] = useState<string>();
  const current = partOf(recipe, shown)?.id;
  const choose = (id: string | undefined): void =>
    view.setState({ part: id, joining: id ? "add" : "new" });
  const onKeyDown = (e: React.KeyboardEvent, part: KeptPart): void => {
    const acts: Record<string, () => void> = {
      Delete: () => deletePart(workspace, part.id),
      F2: () => setRenamed(part.id),
      "Alt ArrowUp": () => movePart(workspace, part.id, -1),
      "Alt ArrowDown": () => movePart(workspace, part.id, 1),
    };
    const act = acts[`${e.altKey ? "Alt " : ""}${e.key}`];
    if (!act) return;
    e.preventDefault();
    e.stopPropagation();
    act();
  };
  return (
    <ul aria-label="Parts" className="mb-1">
      <PartRow isShown={!current}>
        <button
          type="button"
          aria-pressed={!current}
          className="h-7 grow truncate rounded pl-6 text-left pointer-coarse:h-10"
          onClick={() => choose(undefined)}
        >
          Whole picture
        </button>
      </PartRow>
      {recipe.finish.parts.map((part) => (
        <PartRow key={part.id} isShown={part.id === current}>
          <Checkbox
            name={`${part.name} is on`}
            checked={part.on}
            onChange={(on) =>
              edit.keep(withPart(recipe, part.id, { on }), `${part.name} ${on ? "on" : "off"}`)
            }
          />
          {renamed === part.id ? (
            <NameField
              name={part.name}
              onDone={(name) => {
                setRenamed(undefined);
                if (name && name !== part.name)
                  edit.keep(withPart(recipe, part.id, { name }), "Rename a part");
              }}
            />
          ) : (
            <button
              type="button"
              aria-pressed={part.id === current}
              className={`flex h-7 min-w-0 grow items-center gap-2 rounded text-left pointer-coarse:h-10 ${part.on ? "" : "text-quiet"}`}
              onClick={() => choose(part.id)}
              onDoubleClick={() => setRenamed(part.id)}
              onKeyDown={(e) => onKeyDown(e, part)}
            >
              <span className="truncate">{part.name}</span>
              <span className="truncate text-[12px] text-quiet">
                {shapesSaid(part) === part.name.toLowerCase() ? "" : shapesSaid(part)}
              </span>
            </button>
          )}
          <span className="shrink-0 whitespace-nowrap text-[12px] text-quiet">
            {part.on ? `${plainNumber(part.amount * 100, 0)}\u00a0%` : "off"}
          </span>
          {part.id === current && (
            <Toolbar.Root aria-label={`Acts on ${part.name}`}>
              <ActionMenu
                name=""
                label={`More for ${part.name}`}
                hint="More for this part"
                groups={[
                  {
                    actions: [
                      { text: "Rename", keys: "F2", onSelect: () => setRenamed(part.id) },
                      { text: "Duplicate", onSelect: () => duplicatePart(workspace, part.id) },
                      {
                        text: "Move up",
                        keys: "Alt \u2191",
                        onSelect: () => movePart(workspace, part.id, -1),
                      },
                      {
                        text: "Move down",
                        keys: "Alt \u2193",
                        onSelect: () => movePart(workspace, part.id, 1),
                      },
                    ],
                  },
                  {
                    actions: [
                      {
                        text: "Delete",
                        keys: "Delete",
                        onSelect: () => deletePart(workspace, part.id),
                      },
                    ],
                  },
                ]}
              />
            </Toolbar.Root>
          )}
        </PartRow>
      ))}
    </ul>
  );
}

function PartRow({ isShown, children }: { isShown: boolean; children: React.ReactNode }) {
  return (
    <li
      className={`flex items-center gap-2 border-l-2 pl-2 pr-1 ${isShown ? "border-accent bg-raised" : "border-transparent"}`}
    >
      {children}
    </li>
  );
}

/** A name being typed; Enter keeps it, Escape leaves it as it was. */
function NameField({ name, onDone }: { name: string; onDone: (name?: string) => void }) {
  const [typed, setTyped] = useState(name);
  return (
    <input
      aria-label="Name of the part"
      autoFocus
      maxLength={80}
      className="h-7 min-w-0 grow rounded border border-line bg-track px-2"
      value={typed}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={() => onDone(typed.trim())}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") onDone();
      }}
    />
  );
}
