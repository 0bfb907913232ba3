import { median } from "../math/median";
import { travelFaults } from "../focus/focusOrder";
import { roundEv } from "../frame/frame";
import { colourDrift } from "./colourDrift";
import type { PairStatistics } from "./pairStatistics";
import { SHARP_X, SHARP_Y } from "./signature";
import type { FoundStack, StackKind, Warning } from "./foundStack";

const signOf = (n: number): string => ["\u2212", "", "+"][Math.sign(n) + 1]!;
const ev = (n: number): string => signOf(n) + Math.abs(Math.round(n * 10) / 10);

/**
 * Says what was found and why, and what is odd about it.
 *
 * @param members  the stacks a nested one is made of
 */
export function describe(
  e: PairStatistics,
  kind: StackKind,
  frames: number[],
  covered: ReadonlySet<number>,
  members?: FoundStack[],
): FoundStack {
  const warnings: Warning[] = [];
  const name = (i: number): string => e.frames[i]!.info.name;
  const times = frames
    .map((i) => e.frames[i]!.info.exif.takenAt)
    .filter((t): t is number => t !== undefined);
  const within =
    times.length === frames.length && frames.length > 1
      ? `, within ${duration(Math.max(...times) - Math.min(...times))}`
      : "";
  if (kind === "single") {
    const border = covered.has(frames[0]!);
    return {
      kind,
      frames,
      warnings,
      why: border
        ? "A covered frame, taken as a border between sets"
        : "No other frame of this view close in time",
    };
  }
  if (members) {
    const per = members[0]!.frames.length;
    const odd = members.filter((m) => m.frames.length !== per);
    if (odd.length)
      warnings.push({
        code: "set-incomplete",
        message: `${odd.length} of ${members.length} sets have not ${per} frames`,
      });
    const rows = rowsOf(
      e,
      members.map((m) => m.frames[m.frames.length >> 1]!),
    );
    return {
      kind,
      frames,
      warnings: [...warnings, ...members.flatMap((m) => m.warnings)],
      members,
      ...(rows.length > 1 ? { rows } : {}),
      why: `${members.length} overlapping ${members[0]!.kind === "bracket" ? "brackets" : "focus runs"} of ${per} frames${rows.length > 1 ? ` in ${rows.length} rows` : ""}${within}`,
    };
  }
  const blurred = frames.filter((i) =>
    kind === "panorama" ? isBlurredInSweep(e, frames, i) : isBlurred(e, frames, i),
  );
  if (kind !== "focus" && blurred.length && blurred.length * 3 <= frames.length)
    warnings.push({
      code: "blurred",
      message: `${blurred.map(name).join(", ")} ${blurred.length > 1 ? "are" : "is"} less sharp than the others`,
    });
  if (kind === "bracket") {
    const steps = frames.map((i) => (i === frames[0] ? 0 : e.step(frames[0]!, i)));
    const known = steps.filter((v): v is number => v !== undefined);
    const base = median(known);
    const sorted = known.map((v) => roundEv(v - base)).sort((a, b) => a - b);
    const gaps = sorted.slice(1).map((v, i) => v - sorted[i]!);
    const usual = median(gaps);
    const wide = gaps.filter((g) => g > usual * 1.6).length;
    if (wide)
      warnings.push({
        code: "exposure-missing",
        message: `A step of ${ev(Math.max(...gaps))} EV among steps of ${ev(usual)}: an exposure seems to be missing`,
      });
    const apertures = new Set(frames.map((i) => e.frames[i]!.info.exif.aperture));
    if (apertures.size > 1)
      warnings.push({
        code: "aperture-varies",
        message:
          "The aperture changed within the bracket: the depth of field differs from frame to frame",
      });
    const darkest = frames[steps.indexOf(Math.min(...known))];
    const bright = darkest === undefined ? 0 : (e.frames[darkest]!.signature?.bright ?? 0);
    if (bright > 0.005)
      warnings.push({
        code: "highlights-clipped",
        message: `${(bright * 100).toFixed(1)} % is still clipped in the darkest frame, ${name(darkest!)}`,
      });
    return {
      kind,
      frames,
      warnings,
      why: `${frames.length} exposures${known.length > 1 ? `, ${ev(sorted[0]!)} to ${ev(sorted.at(-1)!)} EV` : ""}${within}`,
    };
  }
  if (kind === "panorama") {
    for (let k = 1; k < frames.length; k++) {
      const p = e.pair(frames[k - 1]!, frames[k]!);
      const overlap = p ? (1 - Math.abs(p.dx)) * (1 - Math.abs(p.dy)) : 1;
      if (p && p.certainty > 5.5 && overlap < 0.2)
        warnings.push({
          code: "overlap-thin",
          message: `${name(frames[k - 1]!)} and ${name(frames[k]!)} overlap by ${Math.round(overlap * 100)} % only`,
        });
    }
    const evs = frames.map((i) => e.ev[i]).filter((v): v is number => v !== undefined);
    const drift = evs.length ? Math.max(...evs) - Math.min(...evs) : 0;
    if (drift > 0.2)
      warnings.push({
        code: "exposure-drifts",
        message: `The exposure differs by ${drift.toFixed(1)} EV from frame to frame`,
      });
    const colour = colourDrift(e, frames);
    if (colour && Math.max(colour.red, colour.blue) > 0.15)
      warnings.push({
        code: "white-balance-drifts",
        message: `White balance drifts from frame to frame: red by ${colour.red.toFixed(1)}, blue by ${colour.blue.toFixed(1)} EV`,
      });
    const rows = rowsOf(e, frames);
    return {
      kind,
      frames,
      warnings,
      ...(rows.length > 1 ? { rows } : {}),
      why: `${frames.length} overlapping frames${rows.length > 1 ? ` in ${rows.length} rows` : ""}${within}`,
    };
  }
  const distances = frames.map((i) => e.frames[i]!.info.exif.focusDistance);
  const moves = distances
    .slice(1)
    .flatMap((d, k) =>
      d !== undefined && distances[k] !== undefined
        ? [Math.abs(1 / Math.max(d, 1e-3) - 1 / Math.max(distances[k]!, 1e-3))]
        : [],
    );
  // where the file does not say, from where frames are sharp
  const signatures = frames
    .map((i) => e.frames[i]!.signature?.sharp)
    .filter((s) => s !== undefined);
  const seen =
    moves.length === 0 && signatures.length === frames.length
      ? travelFaults(
          signatures.map((s) => ({
            width: SHARP_X,
            height: SHARP_Y,
            values: Float32Array.from(s, (v) => v / 8),
          })),
          frames.map((_, k) => k),
        ).gaps
      : [];
  const gap = moves.length > 3 ? moves.findIndex((m) => m > 2.2 * median(moves)) : (seen[0] ?? -1);
  if (gap >= 0)
    warnings.push({
      code: "focus-gap",
      message: `The focus jumps between ${name(frames[gap]!)} and ${name(frames[gap + 1]!)}: a step seems to be missing`,
    });
  return {
    kind,
    frames,
    warnings,
    why: `${frames.length} frames of one view, the focus moving through it${within}`,
  };
}

const duration = (s: number): string =>
  s < 90 ? `${s.toFixed(1)} s` : `${Math.round(s / 60)} min`;

/** Less sharp all over than the frames next to it in exposure. */
function isBlurred(e: PairStatistics, frames: readonly number[], i: number): boolean {
  const own = e.frames[i]!.signature?.sharp;
  if (!own || frames.length < 3) return false;
  const others = frames
    .filter((j) => j !== i && Math.abs(e.step(i, j) ?? 0) < 2.4)
    .map((j) => e.frames[j]!.signature?.sharp)
    .filter((s): s is Uint8Array => s !== undefined);
  if (!others.length) return false;
  const differences = own.reduce<number[]>((d, v, k) => {
    const usual = median(others.map((o) => o[k]!));
    if (usual > 60) d.push(v - usual);
    return d;
  }, []);
  return differences.length > own.length / 3 && median(differences) < -SOFTER_CODES;
}

/** Less sharp than the frames beside it where they show the same. */
function isBlurredInSweep(e: PairStatistics, frames: readonly number[], i: number): boolean {
  const own = e.frames[i]!.signature?.sharp;
  const at = frames.indexOf(i);
  const beside = [at - 1, at + 1]
    .filter((k) => k >= 0 && k < frames.length)
    .flatMap((k) => {
      const [a, b] = k < at ? [frames[k]!, i] : [i, frames[k]!];
      const p = e.pair(a, b);
      const other = e.frames[frames[k]!]!.signature?.sharp;
      return p && other && p.certainty > ANY_PAIR_CERTAINTY
        ? [{ other, dx: k < at ? p.dx : -p.dx, dy: k < at ? p.dy : -p.dy }]
        : [];
    });
  return (
    own !== undefined &&
    beside.length > 0 &&
    beside.every(({ other, dx, dy }) => {
      const differences: number[] = [];
      for (let y = 0; y < SHARP_Y; y++)
        for (let x = 0; x < SHARP_X; x++) {
          const u = Math.floor(x + 0.5 + dx * SHARP_X);
          const v = Math.floor(y + 0.5 + dy * SHARP_Y);
          const usual =
            u < 0 || v < 0 || u >= SHARP_X || v >= SHARP_Y ? 0 : other[v * SHARP_X + u]!;
          if (usual > 60) differences.push(own[y * SHARP_X + x]! - usual);
        }
      return differences.length > own.length / 8 && median(differences) < -SOFTER_CODES;
    })
  );
}
/** Codes of fine contrast, 16 a stop, by which a frame is less sharp. */
const SOFTER_CODES = 24;

/**
 * Certainty of neighbours that lie as expected, and of any two frames, beyond what the best of many
 * places reaches by chance.
 */
const NEIGHBOUR_CERTAINTY = 4.5;
const ANY_PAIR_CERTAINTY = 6.5;

/**
 * Rows of a sweep: places in it that lie level with each other, from the shifts between neighbours;
 * where two tell nothing, a frame after them tells by what lies above it.
 */
export function rowsOf(e: PairStatistics, frames: readonly number[]): number[][] {
  const shift = (i: number, k: number): { certainty: number; dy: number } => {
    const p = e.pair(frames[i]!, frames[k]!);
    return {
      certainty: p?.certainty ?? 0,
      dy: p && Math.abs(p.dy) > 0.25 && Math.abs(p.dx) < 0.3 ? p.dy : 0,
    };
  };
  const heights = [0];
  for (let start = 0, k = 1; k <= frames.length; k++) {
    const next = k < frames.length ? shift(k - 1, k) : undefined;
    if (next && next.certainty > NEIGHBOUR_CERTAINTY) {
      heights.push(heights[k - 1]! + next.dy);
      continue;
    }
    // a run of neighbours ends here: it is set against those before it
    let best = { certainty: ANY_PAIR_CERTAINTY, by: 0 };
    for (let j = start; start > 0 && j < k; j++)
      for (let i = 0; i < start; i++) {
        const p = shift(i, j);
        if (p.dy !== 0 && p.certainty > best.certainty)
          best = { certainty: p.certainty, by: heights[i]! + p.dy - heights[j]! };
      }
    for (let j = start; j < k; j++) heights[j]! += best.by;
    start = k;
    if (next) heights.push(heights[k - 1]!);
  }
  const rows: { at: number; list: number[] }[] = [];
  frames.forEach((_, k) => {
    const row = rows.find((r) => Math.abs(r.at - heights[k]!) < 0.25);
    if (row) row.list.push(k);
    else rows.push({ at: heights[k]!, list: [k] });
  });
  return rows.map((r) => r.list);
}
