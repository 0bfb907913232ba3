import { useState } from "react";
import { Toolbar } from "radix-ui";
import { looksSaid } from "../../pipeline/looks/makeLook";
import type { ListedLook } from "../store/looks";
import { ActionMenu } from "../ui/ActionMenu";
import { WordField } from "../ui/WordField";
import { handOut } from "./files";

interface Props {
  looks: readonly ListedLook[];
  chosen: string;
  onChoose: (id: string) => void;
  onWords: (id: string, words: { name?: string; note?: string }) => void;
  onCopy: (look: ListedLook) => void;
  onDelete: (id: string) => void;
}

/** All looks, those that are built in first. */
export function LookList({ looks, chosen, onChoose, onWords, onCopy, onDelete }: Props) {
  const [writing, setWriting] = useState<"name" | "note">();
  return (
    <ul aria-label="Looks" className="-mx-2">
      {looks.map((listed) => {
        const { id, look, isOwn } = listed;
        const isChosen = id === chosen;
        return (
          <li
            key={id}
            className={`flex items-center gap-2 border-l-[3px] pr-1 ${isChosen ? "border-accent bg-raised" : "border-transparent"}`}
          >
            {isChosen && writing ? (
              <WordField
                name={writing === "name" ? "Name of the look" : "Description of the look"}
                text={look[writing]}
                longest={writing === "name" ? 80 : 200}
                mayBeEmpty={writing === "note"}
                onWritten={(text) => {
                  setWriting(undefined);
                  if (text !== undefined) onWords(id, { [writing]: text });
                }}
              />
            ) : (
              <button
                type="button"
                aria-pressed={isChosen}
                className="grid min-w-0 grow px-2 py-1 text-left"
                onClick={() => onChoose(id)}
                onKeyDown={(e) => {
                  if (!isOwn) return;
                  if (e.key === "F2") setWriting(e.shiftKey ? "note" : "name");
                  if (e.key === "Delete") onDelete(id);
                }}
              >
                <span className="flex gap-2">
                  <span className="grow truncate">{look.name}</span>
                  {isOwn && <span className="text-[12px] text-quiet">own</span>}
                </span>
                <span className="truncate text-[12px] text-quiet">
                  {look.note || `sets ${looksSaid(look)}`}
                </span>
              </button>
            )}
            {isChosen && !writing && (
              <Toolbar.Root aria-label={`Acts on ${look.name}`}>
                <ActionMenu
                  name=""
                  label={`More for ${look.name}`}
                  hint="More for this look"
                  groups={[
                    {
                      actions: [
                        { text: "Hand out as a file", onSelect: () => handOut(look) },
                        { text: "Copy to own looks", onSelect: () => onCopy(listed) },
                      ],
                    },
                    {
                      actions: [
                        {
                          text: "Rename",
                          keys: "F2",
                          disabled: !isOwn,
                          onSelect: () => setWriting("name"),
                        },
                        {
                          text: "Describe",
                          keys: "Shift F2",
                          disabled: !isOwn,
                          onSelect: () => setWriting("note"),
                        },
                        {
                          text: "Delete",
                          keys: "Delete",
                          disabled: !isOwn,
                          onSelect: () => onDelete(id),
                        },
                      ],
                    },
                  ]}
                />
              </Toolbar.Root>
            )}
          </li>
        );
      })}
    </ul>
  );
}
