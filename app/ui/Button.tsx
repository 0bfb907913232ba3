import type { ButtonHTMLAttributes, ReactNode } from "react";
import { Tooltip } from "radix-ui";

type Props = ButtonHTMLAttributes<HTMLButtonElement> & {
  variant?: "plain" | "raised" | "accent";
  hint?: string;
  children: ReactNode;
};
const CLASSES = {
  plain: "text-quiet hover:text-ink hover:bg-raised",
  raised: "bg-raised text-ink border border-line hover:border-quiet",
  accent: "bg-accent text-on-accent font-semibold hover:brightness-110",
};

export function Button({ variant = "raised", hint, className = "", ...rest }: Props) {
  const button = (
    <button
      type="button"
      {...rest}
      className={`inline-flex h-7 items-center gap-2 whitespace-nowrap rounded px-3 pointer-coarse:min-h-10 pointer-coarse:min-w-10 disabled:opacity-45 ${CLASSES[variant]} ${className}`}
    />
  );
  return hint ? <Hint text={hint}>{button}</Hint> : button;
}

/** One line that says what a control does. */
export function Hint({ text, children }: { text: string; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={6}
          className="z-50 max-w-72 rounded border border-line bg-raised px-2 py-1 text-[12px] text-ink"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
