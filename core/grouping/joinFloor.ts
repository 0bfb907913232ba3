import { rowsOf } from "./describe";
import type { PairStatistics } from "./pairStatistics";
import { COLOUR_CODES, SHARP_X, SHARP_Y } from "./signature";
import { joinWhere, type Segment } from "./segments";

/**
 * Seconds that lifting a tripod away takes at most; frames of the fewest that were turned about it.
 */
const MAX_PAUSE_SECONDS = 90;
const MIN_FRAMES = 8;
/**
 * A sweep's latest frames, which look down; EV by which a colour may miss, and the share of the
 * frame whose colours are known from them.
 */
const LATEST_FRAMES = 3;
const MAX_COLOUR_MISS_EV = 0.25;
const MIN_KNOWN_SHARE = 0.85;

/**
 * Gives a panorama of several rows the frame of its floor that is taken after it from beside, the
 * tripod lifted away. No turn explains such a frame, so its view tells nothing; but it is taken
 * soon, by itself, with the same settings, and shows little but the colours of those that looked
 * down. Should it show something else after all, the layout names it and leaves it out.
 *
 * @param order  the frames that the segments cut, in the order of their taking
 */
export function joinFloor(
  e: PairStatistics,
  order: readonly number[],
  segments: readonly Segment[],
): Segment[] {
  return joinWhere(
    segments,
    (before, s) =>
      s.kind === "single" &&
      isFloorOf(e, order.slice(before.from, before.to), order[s.from]!, order[s.to]),
  );
}

function isFloorOf(
  e: PairStatistics,
  turned: readonly number[],
  frame: number,
  next: number | undefined,
): boolean {
  const last = turned.at(-1)!;
  const pause = e.pause(last, frame);
  if (
    turned.length < MIN_FRAMES ||
    pause === undefined ||
    pause > MAX_PAUSE_SECONDS ||
    (next !== undefined && (e.pause(frame, next) ?? Infinity) < pause)
  )
    return false;
  if (
    e.settings(last, frame) < 0 ||
    Math.abs(e.step(last, frame) ?? 9) > 0.5 ||
    rowsOf(e, turned).length < 2
  )
    return false;
  const cells = SHARP_X * SHARP_Y;
  const coloursOf = (i: number): [number, number][] => {
    const c = e.frames[i]!.signature?.colour;
    return c
      ? Array.from({ length: cells }, (_, k): [number, number] => [c[k]!, c[cells + k]!]).filter(
          ([red, blue]) => red && blue,
        )
      : [];
  };
  const own = coloursOf(frame);
  const below = turned.slice(-LATEST_FRAMES).flatMap(coloursOf);
  const known = own.filter((a) =>
    below.some((b) => Math.hypot(a[0] - b[0], a[1] - b[1]) < MAX_COLOUR_MISS_EV * COLOUR_CODES),
  );
  return own.length * 2 > cells && known.length > MIN_KNOWN_SHARE * own.length;
}
