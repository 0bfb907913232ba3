import { useRef } from "react";
import { useKeys } from "./useKeys";

/** Words to look for; the slash key leads to it, Escape empties it. */
export function SearchField({
  name,
  placeholder,
  words,
  onWords,
  className = "",
}: {
  name: string;
  placeholder: string;
  words: string;
  onWords: (words: string) => void;
  className?: string;
}) {
  const field = useRef<HTMLInputElement>(null);
  useKeys({ "/": () => field.current?.focus() });
  return (
    <input
      ref={field}
      type="search"
      aria-label={name}
      placeholder={placeholder}
      className={`h-7 shrink-0 rounded border border-line bg-track px-2 placeholder:text-quiet pointer-coarse:h-10 ${className}`}
      value={words}
      maxLength={200}
      onChange={(e) => onWords(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === "Escape") onWords("");
      }}
    />
  );
}
