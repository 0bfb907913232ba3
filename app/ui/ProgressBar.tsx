import { Progress } from "radix-ui";

/** How far something is. @param share  0 to 1 */
export function ProgressBar({ name, share }: { name: string; share: number }) {
  const percent = Math.round(share * 100);
  return (
    <Progress.Root
      aria-label={name}
      value={percent}
      className="h-0.5 w-full grow overflow-hidden bg-line"
    >
      <Progress.Indicator className="h-full bg-accent" style={{ width: `${share * 100}%` }} />
    </Progress.Root>
  );
}
