import { useState } from "react";
import { Link } from "react-router";
import { DropdownMenu } from "radix-ui";
import type { ShelfEntry } from "../store/shelf";
import { bytesText } from "../ui/bytesText";
import { counted } from "../ui/format";
import { Picture } from "../ui/Picture";
import { WordField } from "../ui/WordField";
import { useFocusReturn } from "../ui/useFocusReturn";
import { CoverDialog } from "./CoverDialog";
import { DeleteDialog } from "./DeleteDialog";
import type { ShelfIntent } from "./intent";

interface Props {
  entry: ShelfEntry;
  send: (intent: ShelfIntent) => void;
}

/** What is left to do in a shoot, in words. */
function leftToDo({ stacks, fresh, done }: ShelfEntry): string {
  const merged = fresh ? `${fresh} to merge` : "all merged";
  if (done === 0) return merged;
  return done === stacks ? "all done" : `${merged}, ${done} of ${stacks} done`;
}

/** A shoot on the shelf: its pictures, its name, what is in it and what is left to do. */
export function ShootCard({ entry, send }: Props) {
  const { shoot } = entry;
  const [editing, setEditing] = useState<"name" | "note">();
  const address = `/shoots/${shoot.id}`;
  const keep = (text: string | undefined): void => {
    if (text !== undefined && editing)
      send({ intent: "describe", shoot: shoot.id, words: { [editing]: text } });
    setEditing(undefined);
  };
  return (
    <li>
      <Link to={address} className="block rounded" tabIndex={-1} aria-hidden>
        <Pictures pictures={entry.pictures} />
      </Link>
      <div className="mt-3 flex items-center gap-2">
        <h2 className="min-w-0 grow truncate text-[15px] font-semibold">
          {editing === "name" ? (
            <WordField name="Name of the shoot" text={shoot.name} longest={120} onWritten={keep} />
          ) : (
            <Link to={address} className="rounded">
              {shoot.name}
            </Link>
          )}
        </h2>
        <ShootMenu {...{ entry, send }} onEdit={setEditing} />
      </div>
      <p className="text-quiet">
        {counted(entry.frames, "frame")} in {counted(entry.stacks, "stack")},{" "}
        {bytesText(entry.bytes)}, {leftToDo(entry)}
      </p>
      {shoot.partial && <p>Not whole: restoring it was not finished. Restore it once more.</p>}
      {editing === "note" ? (
        <WordField
          name="Note on the shoot"
          text={shoot.note ?? ""}
          longest={2000}
          mayBeEmpty
          onWritten={keep}
        />
      ) : (
        shoot.note && (
          <p className="truncate" title={shoot.note}>
            {shoot.note}
          </p>
        )
      )}
    </li>
  );
}

function Pictures({ pictures }: { pictures: readonly Blob[] }) {
  return (
    <div className="grid aspect-[3/2] grid-cols-2 grid-rows-2 gap-0.5 overflow-hidden rounded bg-panel">
      {pictures.length < 2 ? (
        <Picture
          blob={pictures[0]}
          alt=""
          className="col-span-2 row-span-2 size-full object-cover"
        />
      ) : (
        [0, 1, 2, 3].map((i) => (
          <Picture key={i} blob={pictures[i]} alt="" className="size-full object-cover" />
        ))
      )}
    </div>
  );
}

const ITEM =
  "flex h-7 cursor-pointer items-center rounded px-2 outline-none data-[highlighted]:bg-fill data-[disabled]:opacity-45 pointer-coarse:h-10";

function ShootMenu({ entry, send, onEdit }: Props & { onEdit: (what: "name" | "note") => void }) {
  const { shoot } = entry;
  const focusReturn = useFocusReturn();
  const [open, setOpen] = useState<"cover" | "delete">();
  return (
    <>
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger
          aria-label={`Actions for ${shoot.name}`}
          className="grid size-7 shrink-0 place-items-center rounded text-quiet hover:bg-raised hover:text-ink pointer-coarse:size-10"
        >
          <svg aria-hidden viewBox="0 0 16 16" className="size-4 fill-current">
            <circle cx="3" cy="8" r="1.4" />
            <circle cx="8" cy="8" r="1.4" />
            <circle cx="13" cy="8" r="1.4" />
          </svg>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={4}
            {...focusReturn}
            className="z-50 min-w-44 rounded border border-line bg-raised p-1 shadow-lg"
          >
            <DropdownMenu.Item className={ITEM} onSelect={() => setTimeout(() => onEdit("name"))}>
              Rename
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => setTimeout(() => onEdit("note"))}>
              Note
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={ITEM}
              disabled={!entry.stackList.some(({ picture }) => picture)}
              onSelect={() => setOpen("cover")}
            >
              Choose the cover…
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} asChild>
              <Link to="/storage">Back up…</Link>
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 h-px bg-line" />
            <DropdownMenu.Item className={ITEM} onSelect={() => setOpen("delete")}>
              Delete…
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {open === "cover" && (
        <CoverDialog
          entry={entry}
          onClose={() => setOpen(undefined)}
          onChosen={(coverId) => send({ intent: "describe", shoot: shoot.id, words: { coverId } })}
        />
      )}
      {open === "delete" && (
        <DeleteDialog
          entry={entry}
          onClose={() => setOpen(undefined)}
          onDelete={() => send({ intent: "delete", shoot: shoot.id })}
        />
      )}
    </>
  );
}
