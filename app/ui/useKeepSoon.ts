import { useEffect, useRef, useState } from "react";
import { keepSoon, type KeepSoon } from "./keepSoon";

/** `keepSoon` for as long as a component is there. */
export function useKeepSoon<T>(keep: (value: T) => void): KeepSoon<T> {
  const latest = useRef(keep);
  useEffect(() => {
    latest.current = keep;
  });
  const [kept] = useState(() => keepSoon<T>((value) => latest.current(value)));
  useEffect(() => kept.listen(), [kept]);
  return kept;
}
