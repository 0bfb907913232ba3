import { useState } from "react";
import type { BadRecord } from "../store/goodRecords";
import { Button } from "../ui/Button";
import { counted } from "../ui/format";

/** What could not be kept, and stored records that could not be read. */
export function BoardNotice({
  failed,
  bad,
}: {
  failed: string | undefined;
  bad: readonly BadRecord[];
}) {
  const [closed, setClosed] = useState<string>();
  const kinds = [...new Set(bad.map(({ what }) => what))];
  const counts = kinds.map((kind) => counted(bad.filter(({ what }) => what === kind).length, kind));
  const unread = bad.length
    ? `${counts.join(", ")} in the storage could not be read and ${bad.length > 1 ? "are" : "is"} left out; all else is here.`
    : undefined;
  const text = failed ?? unread;
  if (!text || text === closed) return null;
  return (
    <div
      role="alert"
      className="flex items-center gap-3 border-b border-line bg-panel px-4 py-2"
      title={bad.map(({ what, id, why }) => `${what} ${id}: ${why}`).join("\n")}
    >
      <p className="grow">{text}</p>
      <Button variant="plain" onClick={() => setClosed(text)}>
        Close
      </Button>
    </div>
  );
}
