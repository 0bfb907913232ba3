import { useState } from "react";
import { LabelledRow } from "./LabelledRow";

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
    <LabelledRow label={label} hint={hint}>
      <input
        aria-label={label}
        className="h-7 min-w-0 rounded border border-line bg-track px-2 pointer-coarse:h-10"
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
    </LabelledRow>
  );
}
