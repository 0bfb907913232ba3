import { suspectKey, type Suspect } from "../../../core/suspects/suspect";
import { Button } from "../../ui/Button";

const WORDS: Record<Suspect["kind"], string> = {
  ghost: "Something moved",
  halo: "Halo",
  "double edge": "Double edge",
  clipped: "Clipped in all frames",
  seam: "Seam",
  "soft band": "Soft band",
  "moved part": "A part moved",
  filled: "Filled",
  residual: "Does not fit",
  "thin overlap": "Thin overlap",
  "place in doubt": "Place in doubt",
};

interface Props {
  suspects: readonly Suspect[];
  accepted: readonly string[];
  at: number | undefined;
  onGo: (i: number) => void;
  onAccept: (s: Suspect) => void;
  onFix: (s: Suspect) => void;
  ready: boolean;
}

/** Places that deserve a look, worst first; each is looked at, fixed or accepted. */
export function Suspects({ suspects, accepted, at, onGo, onAccept, onFix, ready }: Props) {
  const open = suspects.filter((s) => !accepted.includes(suspectKey(s))).length;
  const here = at === undefined ? undefined : suspects[at];
  const allSeen = suspects.length ? "all seen" : "none";
  const count = open ? `${open} to look at` : allSeen;
  const classOf = (s: Suspect, i: number): string => {
    if (i === at) return "bg-raised text-ink";
    return accepted.includes(suspectKey(s)) ? "text-quiet line-through" : "hover:bg-raised";
  };
  return (
    <section aria-label="Suspects" className="mt-4">
      <div className="mb-1 flex items-baseline gap-2">
        <h2 className="grow font-semibold">Suspects</h2>
        <span className="text-[12px] text-quiet">{ready ? count : ""}</span>
      </div>
      <ol className="max-h-44 overflow-auto">
        {suspects.map((s, i) => (
          <li key={i}>
            <button
              type="button"
              aria-current={i === at}
              onClick={() => onGo(i)}
              className={`grid w-full grid-cols-[1fr_auto] items-center gap-2 rounded px-1.5 text-left ${classOf(s, i)}`}
            >
              <span className="truncate">{WORDS[s.kind]}</span>
              <span className="text-[12px] text-quiet">
                {Math.round(s.width)} × {Math.round(s.height)}
              </span>
            </button>
          </li>
        ))}
      </ol>
      {here && (
        <div className="mt-1 flex gap-1">
          <Button
            className="px-2"
            onClick={() => onFix(here)}
            hint="Choose the frame for this area (M)"
          >
            Fix
          </Button>
          <Button className="px-2" onClick={() => onAccept(here)} hint="Accept it as it is (A)">
            {accepted.includes(suspectKey(here)) ? "Not accepted" : "Accept"}
          </Button>
        </div>
      )}
    </section>
  );
}
