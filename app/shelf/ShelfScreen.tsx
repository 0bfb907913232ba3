import { useMemo, useState } from "react";
import { Link, useFetcher, useNavigate } from "react-router";
import type { ShelfEntry } from "../store/shelf";
import type { Incoming } from "../store/incoming";
import { nearLimit } from "../store/room";
import { TopBar } from "../ui/TopBar";
import { BringInButtons, BringInPanel } from "./BringInPanel";
import { DropArea } from "./DropArea";
import { EmptyShelf } from "./EmptyShelf";
import { FoundStacks } from "./FoundStacks";
import type { ShelfIntent } from "./intent";
import { chooseLinked } from "./linkFolder";
import { isLookedFor, NO_QUERY, search, type ShelfQuery } from "./search";
import { ShelfBar } from "./ShelfBar";
import { ShootCard } from "./ShootCard";
import { useBringIn } from "./useBringIn";
import { useDemo } from "./useDemo";
import { useFilesFromSystem } from "./useFilesFromSystem";

interface Props {
  shelf: readonly ShelfEntry[];
  /** the demo was never in this browser */
  demo: boolean;
  estimate: { used: number; granted: number } | undefined;
}

/** All shoots, and what is looked for in them. */
export function ShelfScreen({ shelf, demo: isDemoWanted, estimate }: Props) {
  const work = useBringIn();
  const navigate = useNavigate();
  const fetcher = useFetcher();
  const demo = useDemo(work, isDemoWanted);
  const [query, setQuery] = useState<ShelfQuery>(NO_QUERY);
  const found = useMemo(() => search(shelf, query), [shelf, query]);
  const open = async (
    files: readonly (File | Incoming)[],
    how?: { name: string },
  ): Promise<void> => {
    const done = await work.start(files, how);
    if (done?.shootId && !done.failed.length && !done.notKept.length)
      void navigate(`/shoots/${done.shootId}`);
  };
  const link = async (): Promise<void> => {
    const linked = await chooseLinked();
    if (linked) await open(linked.files, { name: linked.name });
  };
  useFilesFromSystem((files) => void open(files));
  const send = (intent: ShelfIntent): void =>
    void fetcher.submit(intent as never, { method: "post", encType: "application/json" });
  const busy = work.state !== undefined && !work.state.finished;
  const isEmpty = !shelf.length && !busy && demo.share === undefined;
  const warning = estimate && nearLimit(estimate);
  return (
    <DropArea onFiles={(files) => void open(files)}>
      <TopBar path={[{ text: "Shoots" }]} screen="shelf">
        <BringInButtons
          busy={busy}
          onFiles={(files) => void open(files)}
          onLink={() => void link()}
        />
      </TopBar>
      {shelf.length > 0 && <ShelfBar query={query} onQuery={setQuery} />}
      <BringInPanel work={work} />
      {demo.share !== undefined && !work.state && (
        <p className="border-b border-line bg-panel px-4 py-3 text-quiet">
          Fetching the demo shoot, {Math.round(demo.share * 100)} %
        </p>
      )}
      {demo.error && (
        <p role="alert" className="border-b border-line bg-panel px-4 py-3">
          {demo.error.message} <span className="text-quiet">What to do: {demo.error.remedy}.</span>
        </p>
      )}
      {warning && (
        <p className="border-b border-line bg-panel px-4 py-2">
          {warning}{" "}
          <Link className="text-accent underline" to="/storage">
            To the storage
          </Link>
        </p>
      )}
      <main className="grow overflow-auto p-6">
        {isEmpty && <EmptyShelf onDemo={() => void demo.bring()} />}
        {!isEmpty && isLookedFor(query) && <FoundStacks found={found} />}
        {!isEmpty && !isLookedFor(query) && (
          <ul className="grid gap-x-6 gap-y-8 [grid-template-columns:repeat(auto-fill,minmax(340px,1fr))]">
            {found.map(({ entry }) => (
              <ShootCard key={entry.shoot.id} entry={entry} send={send} />
            ))}
          </ul>
        )}
      </main>
    </DropArea>
  );
}
