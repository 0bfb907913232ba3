import type { KeyLine } from "./keys";

/** Keys, and what each does. @param width  of the column of keys, px */
export const KeyList = ({ keys, width }: { keys: readonly KeyLine[]; width: number }) => (
  <dl className="grid gap-y-1" style={{ gridTemplateColumns: `${width}px 1fr` }}>
    {keys.map(([key, does]) => (
      <div key={`${key} ${does}`} className="contents">
        <dt>
          <kbd className="rounded border border-line px-1.5 py-0.5 font-sans text-[12px]">
            {key}
          </kbd>
        </dt>
        <dd>{does}</dd>
      </div>
    ))}
  </dl>
);
