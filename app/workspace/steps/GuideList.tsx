import { Button } from "../../ui/Button";

const KINDS = { level: "Level", vertical: "Vertical", straight: "Straight" } as const;

/** Lines that were drawn along what is level, vertical or straight, each with its deletion. */
export function GuideList({
  guides,
  onDelete,
}: {
  guides: readonly { kind: keyof typeof KINDS; said?: string }[];
  onDelete: (index: number) => void;
}) {
  if (!guides.length) return null;
  return (
    <ul aria-label="Guides" className="mt-1">
      {guides.map(({ kind, said = "" }, i) => (
        <li key={i} className="flex h-7 items-center gap-2">
          <span className="grow text-quiet">
            {KINDS[kind]} line {i + 1}
            {said}
          </span>
          <Button
            variant="plain"
            className="h-6 px-2"
            aria-label={`Delete guide ${i + 1}`}
            onClick={() => onDelete(i)}
          >
            Delete
          </Button>
        </li>
      ))}
    </ul>
  );
}
