import type { RhizomeError } from "../../core/error";

/** Names frames whose files cannot be read, and what to do. */
export function UnreadFiles({ unread }: { unread: readonly RhizomeError[] }) {
  if (!unread.length) return null;
  return (
    <section aria-label="Files that cannot be read">
      <ul
        aria-label="Files that cannot be read"
        className="max-h-24 overflow-auto border-b border-line bg-panel px-4 py-2"
      >
        {unread.map(({ message, remedy }) => (
          <li key={message}>
            {message} <span className="text-quiet">What to do: {remedy}.</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
