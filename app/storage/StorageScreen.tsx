import { useState } from "react";
import { useFetcher } from "react-router";
import { backUp } from "../backup/backup";
import { RhizomeError } from "../../core/error";
import type { StorageIntent } from "./intent";
import { DropArea } from "../shelf/DropArea";
import { KEPT_LIMITS } from "../store/keptMerges";
import type { ShootUse, Usage } from "../store/usage";
import { HelpLink } from "../help/HelpLink";
import { Button } from "../ui/Button";
import { bytesText } from "../ui/bytesText";
import { Checkbox } from "../ui/Checkbox";
import { ConfirmDialog } from "../ui/ConfirmDialog";
import { counted } from "../ui/format";
import { Select } from "../ui/Select";
import { TopBar } from "../ui/TopBar";
import { RestorePanel } from "./RestorePanel";
import { Room } from "./Room";
import { ShootTable } from "./ShootTable";

/** What takes room, what can go, and backups. */
export function StorageScreen({ usage }: { usage: Usage }) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [file, setFile] = useState<File>();
  const fetcher = useFetcher();
  const send = (intent: StorageIntent): void =>
    void fetcher.submit(intent as never, { method: "post", encType: "application/json" });
  const isBusy = fetcher.state !== "idle";
  return (
    <DropArea onFiles={(files) => setFile(files[0])} text="Drop a backup to restore it">
      <TopBar path={[{ text: "Storage" }]} screen="storage" />
      <main className="grow overflow-auto p-6">
        <div className="mx-auto flex max-w-5xl flex-col gap-8">
          <Room usage={usage} />
          <Shoots {...{ usage, chosen, isBusy, send }} onChosen={setChosen} />
          <RestorePanel file={file} onFile={setFile} />
          <KeptMerges {...{ usage, isBusy, send }} />
        </div>
      </main>
    </DropArea>
  );
}

interface Sending {
  usage: Usage;
  isBusy: boolean;
  send: (intent: StorageIntent) => void;
}

function Shoots({
  usage,
  chosen,
  onChosen,
  isBusy,
  send,
}: Sending & { chosen: ReadonlySet<string>; onChosen: (ids: ReadonlySet<string>) => void }) {
  const [withHistory, setWithHistory] = useState(false);
  const [problem, setProblem] = useState<RhizomeError>();
  const [isAsking, setIsAsking] = useState(false);
  const some = usage.shoots.filter(({ shoot }) => chosen.has(shoot.id));
  const ids = some.map(({ shoot }) => shoot.id);
  const none = some.length === 0;
  const back = (): void => {
    setProblem(undefined);
    backUp(
      some.map(({ shoot }) => shoot),
      withHistory,
    ).catch((e: unknown) => setProblem(RhizomeError.from(e)));
  };
  return (
    <section aria-label="Shoots">
      <div className="mb-2 flex items-center gap-2">
        <h2 className="grow text-[15px] font-semibold">
          {none ? "Shoots" : `${counted(some.length, "shoot")} chosen`}
        </h2>
        <label className="mr-2 flex items-center gap-2 text-quiet">
          <Checkbox checked={withHistory} onChange={setWithHistory} />
          With what can be undone
        </label>
        <Button variant={none ? "raised" : "accent"} disabled={none} onClick={back}>
          Back up
        </Button>
        <Button
          disabled={none || isBusy}
          onClick={() => send({ intent: "clear", shoots: ids })}
          hint="Stacks are merged again when they are opened"
        >
          Clear kept merges
        </Button>
        <Button disabled={none || isBusy} onClick={() => setIsAsking(true)}>
          Delete…
        </Button>
      </div>
      {usage.shoots.length ? (
        <ShootTable shoots={usage.shoots} chosen={chosen} onChosen={onChosen} />
      ) : (
        <p className="text-quiet">There are no shoots in this browser at this address.</p>
      )}
      {problem && (
        <p role="alert" className="mt-2">
          {problem.message} <span className="text-quiet">What to do: {problem.remedy}.</span>
        </p>
      )}
      {isAsking && (
        <ConfirmDialog
          title={`Delete ${counted(some.length, "shoot")} from this browser?`}
          description={deletionSaid(some)}
          confirm="Delete"
          onClose={() => setIsAsking(false)}
          onConfirm={() => {
            onChosen(new Set());
            send({ intent: "delete", shoots: ids });
          }}
        />
      )}
    </section>
  );
}

/** What goes when shoots are deleted. */
function deletionSaid(shoots: readonly ShootUse[]): string {
  const names = shoots.map(({ shoot }) => `“${shoot.name}”`).join(", ");
  const frames = shoots.reduce((n, use) => n + use.frames, 0);
  return `${names}: ${counted(frames, "frame")} and their recipes go. Files on your disk are not touched. This cannot be undone.`;
}

const limitText = (bytes: number): string => (bytes ? `At most ${bytes / 2 ** 30} GiB` : "None");

function KeptMerges({ usage, isBusy, send }: Sending) {
  const { kept } = usage;
  const limits = [...new Set([...KEPT_LIMITS, usage.keptLimit])].sort((a, b) => a - b);
  return (
    <section aria-label="Kept merges">
      <div className="flex items-center gap-2">
        <h2 className="text-[15px] font-semibold">Kept merges</h2>
        <HelpLink page="back-up" heading="Storage" />
        <p className="grow pl-2 text-quiet">
          {bytesText(kept)}: so that a stack opens at once. Those used longest ago go first; nothing
          else is ever dropped by itself.
        </p>
        <Select
          name="Room for kept merges"
          className="w-36"
          value={String(usage.keptLimit)}
          options={limits.map((bytes) => ({ value: String(bytes), text: limitText(bytes) }))}
          onChange={(bytes) => send({ intent: "limit", bytes: Number(bytes) })}
        />
        <Button disabled={isBusy || !kept} onClick={() => send({ intent: "clear", shoots: null })}>
          Clear all
        </Button>
      </div>
    </section>
  );
}
