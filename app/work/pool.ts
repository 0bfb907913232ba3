import { webHost } from "../../runtime/hosts/web";
import { traceLeases } from "../../runtime/lease";
import { Pool } from "../../pipeline/pool";

/**
 * Bytes that merges may take: 2 GiB, or half of what the browser says the machine has.
 *
 * @param reported  GiB, where the browser tells
 */
export const budgetFor = (reported: number | undefined): number =>
  Math.min(2 ** 31, reported ? reported * 2 ** 29 : Infinity);

if (import.meta.env?.DEV) traceLeases((takenAt) => console.warn(`Never released. ${takenAt}`));

let one: Pool | undefined;

/** The page's one pool of workers, started when first needed. */
export function pool(): Pool {
  return (one ??= new Pool(
    webHost(
      () =>
        new Worker(new URL("../../pipeline/worker/webWorker.ts", import.meta.url), {
          type: "module",
        }),
    ),
    budgetFor((navigator as { deviceMemory?: number }).deviceMemory),
  ));
}
