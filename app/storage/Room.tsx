import { useState } from "react";
import { useRevalidator } from "react-router";
import { askToKeep, type Promised } from "../store/persistence";
import type { Usage } from "../store/usage";
import { Button } from "../ui/Button";
import { bytesText } from "../ui/bytesText";
import { nearLimit } from "../store/room";

const sum = (numbers: readonly number[]): number => numbers.reduce((all, n) => all + n, 0);

/** The parts of what is used, each with its shade; the last is what the browser needs itself. */
function partsOf({ shoots, kept, estimate }: Usage): { name: string; bytes: number }[] {
  const originals = sum(shoots.map((use) => use.originals));
  const pictures = sum(shoots.map((use) => use.pictures));
  const rest = estimate ? Math.max(0, estimate.used - originals - pictures - kept) : 0;
  return [
    { name: "Originals", bytes: originals },
    { name: "Small pictures", bytes: pictures },
    { name: "Kept merges", bytes: kept },
    { name: "Other", bytes: rest },
  ];
}
const SHADES = ["bg-accent", "bg-ink", "bg-quiet", "bg-fill"];

/** How much room there is, what it is used for, and what the browser promised. */
export function Room({ usage }: { usage: Usage }) {
  const { estimate } = usage;
  const parts = partsOf(usage);
  const used = estimate?.used ?? sum(parts.map(({ bytes }) => bytes));
  const granted = estimate?.granted ?? used;
  const warning = estimate && nearLimit(estimate);
  return (
    <section aria-label="Room">
      <h2 className="text-[15px] font-semibold">
        {bytesText(used)} used
        {estimate && (
          <span className="font-normal text-quiet">
            {" "}
            of {bytesText(granted)} that the browser grants
          </span>
        )}
      </h2>
      <div
        role="img"
        aria-label={parts.map(({ name, bytes }) => `${name} ${bytesText(bytes)}`).join(", ")}
        className="mt-2 flex h-3 overflow-hidden rounded-sm bg-track"
      >
        {parts.map(({ name, bytes }, i) => (
          <span
            key={name}
            className={SHADES[i]}
            style={{ width: `${(bytes / Math.max(1, granted)) * 100}%` }}
          />
        ))}
      </div>
      <dl className="mt-2 flex flex-wrap gap-x-6 gap-y-1 text-[12px]">
        {parts.map(({ name, bytes }, i) => (
          <div key={name} className="flex items-center gap-2">
            <span aria-hidden className={`size-2.5 rounded-[2px] ${SHADES[i]}`} />
            <dt className="text-quiet">{name}</dt>
            <dd>{bytesText(bytes)}</dd>
          </div>
        ))}
      </dl>
      {warning && (
        <p role="alert" className="mt-3 rounded border border-accent px-3 py-2">
          {warning}
        </p>
      )}
      <PromiseOfBrowser promised={usage.promised} />
    </section>
  );
}

const SAID: Record<Promised, string> = {
  kept: "The browser promised to keep all of this until you delete it.",
  asLongAsThereIsRoom:
    "The browser keeps this as long as the disk has room: when it runs full, it may drop all of it at once.",
  unknown: "This browser does not say whether it keeps this when the disk runs full.",
};

function PromiseOfBrowser({ promised }: { promised: Promised }) {
  const { revalidate } = useRevalidator();
  const [wasRefused, setWasRefused] = useState(false);
  const ask = async (): Promise<void> => {
    setWasRefused((await askToKeep()) !== "kept");
    await revalidate();
  };
  return (
    <div className="mt-3 flex items-center gap-4">
      <p className="grow text-quiet">
        {SAID[promised]}
        {wasRefused &&
          " It did not promise more now; it does for pages that are installed or used often. A backup is sure."}
      </p>
      {promised !== "kept" && (
        <Button
          onClick={() => void ask()}
          hint="The browser may ask you whether Rhizome may do that"
        >
          Ask it to keep this
        </Button>
      )}
    </div>
  );
}
