import { usage } from "../arguments";

const MINUTE = 60_000;
const DAY = 24 * 60 * MINUTE;
/** Without a time at which it is due, a job is taken as one that is due so long after it is put in. */
const DUE_AFTER = { first: 0, usual: DAY, last: 7 * DAY };
export type Priority = keyof typeof DUE_AFTER;

/** Jobs are in order by times that differ by this much; the queue has 2^21 places, 20 years. */
const STEP = 5 * MINUTE;
const EPOCH = Date.UTC(2026, 0, 1);
const LAST_PLACE = 2 ** 21;

/** When something is to be done, ms since 1970. */
export interface Order {
  /** when somebody waits for it */
  due?: number;
  /** by which jobs are put in order: what is due earlier goes first */
  by: number;
}

/**
 * Reads --due, a time of day or a date and a time, and --priority.
 *
 * @param now  ms since 1970
 * @throws RhizomeError `usage`
 */
export function orderOf(
  { due, priority = "usual" }: { due?: string | undefined; priority?: string | undefined },
  now: number,
): Order {
  if (!Object.hasOwn(DUE_AFTER, priority))
    throw usage(`--priority is ${Object.keys(DUE_AFTER).join(", ")}, not "${priority}"`);
  const usualDue = now + DUE_AFTER[priority as Priority];
  if (due === undefined) return { by: usualDue };
  const at = timeOf(due, now);
  return { due: at, by: Math.min(at, usualDue) };
}

function timeOf(text: string, now: number): number {
  const ofDay = /^([01]?\d|2[0-3]):([0-5]\d)$/.exec(text);
  const at = ofDay ? new Date(now) : new Date(text);
  if (ofDay) at.setHours(Number(ofDay[1]), Number(ofDay[2]), 0, 0);
  // the next time that the clock shows so
  if (ofDay && at.getTime() <= now) at.setDate(at.getDate() + 1);
  if (Number.isNaN(at.getTime()))
    throw usage(`--due is a time such as 07:00 or 2026-12-03T07:00, not "${text}"`);
  if (at.getTime() <= now) throw usage(`--due is a time that is to come, not "${text}"`);
  return at.getTime();
}

/** A job's place in the queue: the lowest goes first. */
export const placeOf = ({ by }: Order): number =>
  Math.min(LAST_PLACE, Math.max(1, Math.floor((by - EPOCH) / STEP)));
