import { ProgressBar } from "../ui/ProgressBar";
import { Link } from "react-router";
import { READABLE } from "../../codecs/inputFormats";
import { linksFolders } from "../store/linkedFolders";
import { Button } from "../ui/Button";
import { counted } from "../ui/format";
import { FileButtons } from "../ui/FileButtons";
import { NamingField } from "./NamingField";
import { Picture } from "../ui/Picture";
import type { BringInState } from "../store/bringIn";
import type { BringIn } from "./useBringIn";

/** The two ways of choosing, as buttons. */
export function BringInButtons({
  onFiles,
  onLink,
  busy,
}: {
  onFiles: (files: File[]) => void;
  /** a folder is to be chosen whose frames stay where they are */
  onLink?: () => void;
  busy: boolean;
}) {
  return (
    <>
      <NamingField />
      <FileButtons
        files={{
          text: "Bring in files",
          hint: `${READABLE}, or a zip of them; as many as you like`,
          name: "Files to bring in",
        }}
        folder={{
          text: "Bring in a folder",
          hint: "A folder with all below it",
          name: "Folder to bring in",
        }}
        isBusy={busy}
        onFiles={onFiles}
      />
      {onLink && linksFolders() && (
        <Button
          className="max-lg:hidden"
          disabled={busy}
          onClick={onLink}
          hint="Frames stay in their folder on your disk and are read from there; nothing is copied"
        >
          Link a folder
        </Button>
      )}
    </>
  );
}

const timeLeft = (s: BringInState): string =>
  s.done > 4 && s.done < s.total
    ? `, about ${Math.max(1, Math.ceil(((Date.now() - s.startedAt) / 1000 / s.done) * (s.total - s.done)))} s left`
    : "";

/** Some names, and how many more there are. */
function someOf(names: readonly string[], most = 5): string {
  const more = names.length - most;
  return `${names.slice(0, most).join(", ")}${more > 0 ? ` and ${more} more` : ""}`;
}

/** Progress and outcome of bringing in. */
export function BringInPanel({ work }: { work: BringIn }) {
  const { state: s, error } = work;
  if (error)
    return (
      <section
        role="alert"
        className="flex items-center gap-4 border-b border-line bg-panel px-4 py-3"
      >
        <p className="grow">
          {error.message} <span className="text-quiet">What to do: {error.remedy}.</span>
        </p>
        <Button variant="plain" onClick={work.clear}>
          Close
        </Button>
      </section>
    );
  if (!s) return null;
  const doing = s.finding
    ? `${s.done} of ${s.total} frames read, finding the stacks`
    : `Bringing in, ${s.done} of ${s.total}${timeLeft(s)}`;
  return (
    <section aria-label="Bringing in" className="border-b border-line bg-panel px-4 py-3">
      <div className="flex items-center gap-4">
        <p className="grow" aria-live="polite">
          {s.finished
            ? `${s.done - s.failed.length - s.notKept.length - s.known} of ${s.total} frames brought in`
            : doing}
          {s.known > 0 && `, ${s.known} were here already`}
          {s.failed.length > 0 && `, ${s.failed.length} could not be read`}
          {s.leftOut.length > 0 && `, ${counted(s.leftOut.length, "other file")} left out`}
          {s.notKept.length > 0 && `, ${s.notKept.length} not kept: the storage is full`}
        </p>
        {s.finished ? (
          <Button variant="plain" onClick={work.clear}>
            Close
          </Button>
        ) : (
          <Button onClick={work.stop} hint="Keeps what is in">
            Stop
          </Button>
        )}
      </div>
      {s.tooMuch && !s.full && <p className="mt-2">{s.tooMuch}</p>}
      {s.finished && s.promised === "asLongAsThereIsRoom" && (
        <p className="mt-1 text-quiet">
          The browser keeps these as long as the disk has room: keep your cards until they are{" "}
          <Link className="underline" to="/storage">
            backed up
          </Link>
          .
        </p>
      )}
      {!s.finished && (
        <div className="mt-2">
          <ProgressBar name="Bringing in" share={s.done / Math.max(1, s.total)} />
        </div>
      )}
      {!s.finished && s.thumbnails.length > 0 && (
        <div className="mt-3 flex gap-2">
          {s.thumbnails.map((t) => (
            <Picture key={t.name} blob={t.blob} alt={t.name} className="h-12 rounded-sm" />
          ))}
        </div>
      )}
      {s.full && (
        <p role="alert" className="mt-2">
          {s.full.message} Not kept: {someOf(s.notKept)}.{" "}
          <span className="text-quiet">
            What to do: {s.full.remedy}, then bring these in again.
          </span>
        </p>
      )}
      {s.failed.length + s.leftOut.length > 0 && (
        <ul className="mt-2 max-h-28 overflow-auto">
          {[...s.failed, ...s.leftOut].map((f, i) => (
            <li key={i}>
              {f.message} <span className="text-quiet">What to do: {f.remedy}.</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
