import { useEffect, useRef, useState } from "react";
import { useRevalidator } from "react-router";
import { RhizomeError } from "../../core/error";
import { compareWith, restoreFrom, type Compared } from "../backup/backup";
import type { ComparedShoot, Restored, RestoreHow } from "../backup/messages";
import { HelpLink } from "../help/HelpLink";
import { Button } from "../ui/Button";
import { counted } from "../ui/format";
import { Select, type Option } from "../ui/Select";

type Choices = Record<string, RestoreHow>;

/** What a shoot of a backup is at first: what is missing is restored. */
const firstChoice = ({ isHere, missing }: ComparedShoot): RestoreHow =>
  isHere && missing === 0 ? "nothing" : "missing";

/** Chooses a backup, shows what is in it beside what is here, and restores what is chosen. */
export function RestorePanel({
  file,
  onFile,
}: {
  file: File | undefined;
  onFile: (file: File | undefined) => void;
}) {
  const field = useRef<HTMLInputElement>(null);
  const [compared, setCompared] = useState<Compared>();
  const [problem, setProblem] = useState<RhizomeError>();
  const [outcome, setOutcome] = useState<Restored>();
  useEffect(() => {
    setCompared(undefined);
    setProblem(undefined);
    if (!file) return undefined;
    setOutcome(undefined);
    const stopper = new AbortController();
    compareWith(file, stopper.signal).then(
      (found) => setCompared(found),
      (e: unknown) => {
        if (!stopper.signal.aborted) setProblem(RhizomeError.from(e));
      },
    );
    return () => stopper.abort();
  }, [file]);
  return (
    <section aria-label="Restore">
      <div className="flex items-center gap-4">
        <h2 className="text-[15px] font-semibold">Restore</h2>
        <HelpLink page="back-up" heading="Restore" />
        <p className="min-w-0 grow truncate text-quiet">
          {file
            ? file.name
            : "From a backup, of this browser or another; drop it here or choose it."}
        </p>
        <Button onClick={() => field.current!.click()}>Choose a backup</Button>
        <input
          ref={field}
          type="file"
          accept=".zip,application/zip"
          aria-label="Backup to restore"
          className="hidden"
          onChange={(e) => {
            onFile(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </div>
      {file && !compared && !problem && (
        <p role="status" className="mt-2 text-quiet">
          Looking into it…
        </p>
      )}
      {problem && (
        <p role="alert" className="mt-2">
          {problem.message} <span className="text-quiet">What to do: {problem.remedy}.</span>
        </p>
      )}
      {file && compared && (
        <BackupContents
          file={file}
          compared={compared}
          onClose={() => onFile(undefined)}
          onRestored={(restored) => {
            setOutcome(restored);
            onFile(undefined);
          }}
        />
      )}
      {outcome && <Outcome outcome={outcome} />}
    </section>
  );
}

function BackupContents({
  file,
  compared,
  onClose,
  onRestored,
}: {
  file: File;
  compared: Compared;
  onClose: () => void;
  onRestored: (restored: Restored | undefined) => void;
}) {
  const { revalidate } = useRevalidator();
  const [choices, setChoices] = useState<Choices>(() =>
    Object.fromEntries(compared.shoots.map((shoot) => [shoot.folder, firstChoice(shoot)])),
  );
  const [isRestoring, setIsRestoring] = useState(false);
  const restore = async (): Promise<void> => {
    setIsRestoring(true);
    const restored = await restoreFrom(file, choices);
    await revalidate();
    onRestored(restored);
  };
  const made =
    compared.madeAt === undefined ? "" : new Date(compared.madeAt).toLocaleString("en-GB");
  return (
    <div className="mt-3 rounded border border-line bg-panel p-3">
      {made && <p className="text-quiet">Made on {made}.</p>}
      <Problems problems={compared.problems} />
      <ul className="mt-2">
        {compared.shoots.map((shoot) => (
          <li key={shoot.folder} className="flex h-9 items-center gap-4 border-b border-line">
            <span className="min-w-0 grow truncate">{shoot.name}</span>
            <span className="text-quiet">
              {counted(shoot.frames, "frame")} in {counted(shoot.stacks, "stack")}
            </span>
            <span className="w-44 text-right text-quiet">{standing(shoot)}</span>
            <Select
              name={`What to do with ${shoot.name}`}
              className="w-52"
              value={choices[shoot.folder] ?? "nothing"}
              options={waysOf(shoot)}
              onChange={(how) => setChoices({ ...choices, [shoot.folder]: how })}
              disabled={isRestoring}
            />
          </li>
        ))}
      </ul>
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose} disabled={isRestoring}>
          Close
        </Button>
        <Button
          variant="accent"
          disabled={isRestoring || Object.values(choices).every((how) => how === "nothing")}
          onClick={() => void restore()}
        >
          {isRestoring ? "Restoring…" : "Restore"}
        </Button>
      </div>
    </div>
  );
}

/** How a shoot of a backup stands to what is here. */
function standing({ isHere, missing }: ComparedShoot): string {
  if (!isHere) return "Not here";
  return missing ? `Here, ${counted(missing, "frame")} missing` : "Here";
}

function waysOf({ isHere }: ComparedShoot): Option<RestoreHow>[] {
  const usual: Option<RestoreHow> = isHere
    ? { value: "missing", text: "Add what is missing" }
    : { value: "missing", text: "Restore it" };
  const copy: Option<RestoreHow>[] = isHere
    ? [{ value: "copy", text: "Restore as a second one" }]
    : [];
  return [usual, ...copy, { value: "nothing", text: "Leave it out" }];
}

function Outcome({ outcome: { frames, stacks, problems } }: { outcome: Restored }) {
  return (
    <div className="mt-3">
      <p aria-live="polite">
        {counted(frames, "frame")} and {counted(stacks, "stack")} restored.
      </p>
      <Problems problems={problems} />
    </div>
  );
}

function Problems({ problems }: { problems: readonly string[] }) {
  if (!problems.length) return null;
  return (
    <ul role="alert" className="mt-2 max-h-28 overflow-auto">
      {problems.map((said, i) => (
        <li key={i}>{said}</li>
      ))}
    </ul>
  );
}
