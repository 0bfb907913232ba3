import type { ReactNode } from "react";
import { Hint } from "./Button";

/** A control with its label left of it; what it does is said on hover and focus. */
export function LabelledRow({
  label,
  hint,
  children,
}: {
  label: string;
  hint: string;
  children: ReactNode;
}) {
  return (
    <div className="my-px grid min-h-7 grid-cols-[96px_1fr] items-center gap-2">
      <Hint text={hint}>
        <span className="truncate pl-2.5 text-quiet">{label}</span>
      </Hint>
      {children}
    </div>
  );
}
