import type { ShelfEntry } from "../store/shelf";
import { Picture } from "../ui/Picture";
import { SmallDialog } from "../ui/SmallDialog";

/** Chooses the picture that stands for a shoot. */
export function CoverDialog({
  entry,
  onClose,
  onChosen,
}: {
  entry: ShelfEntry;
  onClose: () => void;
  onChosen: (stack: string) => void;
}) {
  const now = entry.shoot.coverId;
  return (
    <SmallDialog title={`Cover of ${entry.shoot.name}`} open onClose={onClose} width={640}>
      <ul className="grid max-h-[50vh] grid-cols-4 gap-2 overflow-auto">
        {entry.stackList.map(({ id, name, picture }) => (
          <li key={id}>
            <button
              type="button"
              aria-pressed={id === now}
              className="w-full rounded border border-transparent p-1 text-left hover:border-quiet aria-pressed:border-accent"
              onClick={() => {
                onChosen(id);
                onClose();
              }}
            >
              <Picture blob={picture} alt="" className="aspect-[3/2] w-full object-cover" />
              <span className="block truncate text-[12px]">{name}</span>
            </button>
          </li>
        ))}
      </ul>
    </SmallDialog>
  );
}
