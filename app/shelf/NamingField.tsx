import { useEffect, useState } from "react";
import { Popover } from "radix-ui";
import { keepNaming, readNaming, type Naming } from "../store/caption";
import { TextField } from "../ui/TextField";

/** Who made what is brought in: set once, written into every file that is delivered of it. */
export function NamingField() {
  const [naming, setNaming] = useState<Naming>();
  useEffect(() => void readNaming().then(setNaming), []);
  const set = (part: Partial<Naming>): void => {
    const next = { ...naming!, ...part };
    setNaming(next);
    void keepNaming(next);
  };
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label="Creator and copyright"
          className="h-7 max-w-40 truncate rounded px-2 text-quiet hover:bg-raised hover:text-ink"
        >
          {naming?.creator ? `By ${naming.creator}` : "Creator"}
          {!naming?.creator && <span className="max-lg:hidden"> and copyright…</span>}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-40 w-80 rounded border border-line bg-panel p-3 shadow-lg"
        >
          <h2 className="mb-1 font-semibold">Creator and copyright</h2>
          <p className="mb-2 text-quiet">Laid on all that is brought in from now on.</p>
          {naming && (
            <>
              <TextField
                label="Creator"
                hint="Written into every file."
                value={naming.creator}
                onCommit={(creator) => set({ creator })}
              />
              <TextField
                label="Copyright"
                hint="Written into every file."
                value={naming.copyright}
                onCommit={(copyright) => set({ copyright })}
              />
            </>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
