import { useState } from "react";
import { Hint } from "./Button";

interface Props {
  label: string;
  hint: string;
  value: string;
  onCommit: (v: string) => void;
}

/** A line of text, kept on Enter or when it is left; Escape takes it back. */
export function TextField({ label, hint, value, onCommit }: Props) {
  const [typed, setTyped] = useState<string>();
  return (
    <label className="grid h-7 grid-cols-[84px_1fr] items-center gap-2">
      <Hint text={hint}>
        <span className="truncate text-quiet">{label}</span>
      </Hint>
      <input
        className="h-6 min-w-0 rounded border border-line bg-transparent px-2"
        value={typed ?? value}
        maxLength={200}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => {
          if (typed !== undefined && typed.trim() !== value) onCommit(typed.trim());
          setTyped(undefined);
        }}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") {
            setTyped(value);
            const el = e.currentTarget;
            setTimeout(() => el.blur());
          }
        }}
      />
    </label>
  );
}
