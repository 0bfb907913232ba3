import { bytesText } from "../ui/bytesText";

/** From this share on it is said that room runs out. */
const NEAR = 0.85;

/** What is said when there is little room left; undefined while there is enough. */
export function nearLimit({
  used,
  granted,
}: {
  used: number;
  granted: number;
}): string | undefined {
  if (used < granted * NEAR) return undefined;
  const left = bytesText(Math.max(0, granted - used));
  return `Only ${left} are left. Back up and delete shoots that are delivered, or clear kept merges.`;
}

/** What is said before files come in that will not fit; undefined where they do. */
export function willNotFit(
  bytes: number,
  { used, granted }: { used: number; granted: number },
): string | undefined {
  const left = Math.max(0, granted - used);
  if (bytes <= left) return undefined;
  return `These files take ${bytesText(bytes)}, and the browser grants ${bytesText(left)} more: not all will fit.`;
}
