import { useRef, useState } from "react";

/** Words written where they stand: kept on Enter or when they are left; Escape takes them back. */
export function WordField({
  name,
  text: written,
  longest,
  mayBeEmpty = false,
  onWritten,
}: {
  name: string;
  text: string;
  longest: number;
  mayBeEmpty?: boolean;
  /** undefined where nothing is to change */
  onWritten: (text: string | undefined) => void;
}) {
  const [text, setText] = useState(written);
  const isLeft = useRef(false);
  const leave = (to: string | undefined): void => {
    if (isLeft.current) return;
    isLeft.current = true;
    const isNothing = to === written || (to === "" && !mayBeEmpty);
    onWritten(isNothing ? undefined : to);
  };
  return (
    <input
      autoFocus
      aria-label={name}
      value={text}
      maxLength={longest}
      onClick={(e) => e.stopPropagation()}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => leave(text.trim())}
      onKeyDown={(e) => {
        if (e.key === "Enter") leave(text.trim());
        if (e.key === "Escape") leave(undefined);
        e.stopPropagation();
      }}
      className="h-6 w-full rounded border border-line bg-ground px-1"
    />
  );
}
