import { exposureEv, roundEv, type FrameInfo } from "../frame/frame";

export type StackKind = "bracket" | "panorama" | "focus" | "single";

export interface FoundStack { kind: StackKind; frames: number[]; why: string; warnings: { code: string; message: string }[] }

const ev = (n: number): string => (n > 0 ? "+" : n < 0 ? "\u2212" : "") + Math.abs(Math.round(n * 10) / 10);

/** Numbers in a name count as numbers, so that frame 10 follows frame 9. */
export const byName = new Intl.Collator("en", { numeric: true }).compare;

/**
 * Finds brackets by capture time and exposure pattern. A set goes on while size, camera, focal length and
 * aperture stay, no exposure comes twice, and the pause is short for these shutter times.
 *
 * @param frames  in any order; those without a time go by name after the others
 * @param gapSeconds  longest pause within a set, beyond the exposures themselves
 * @returns stacks in capture order; every frame in exactly one
 */
export function groupFrames(frames: readonly FrameInfo[], gapSeconds = 3): FoundStack[] {
  const order = frames.map((_, i) => i).sort((a, b) => {
    const ta = frames[a]!.exif.takenAt ?? Infinity, tb = frames[b]!.exif.takenAt ?? Infinity;
    return ta === tb ? byName(frames[a]!.name, frames[b]!.name) : ta - tb;
  });
  const sets: number[][] = [];
  for (const i of order) {
    const set = sets.at(-1);
    if (set && continues(set.map((k) => frames[k]!), frames[i]!, gapSeconds)) set.push(i);
    else sets.push([i]);
  }
  return sets.flatMap((set) => describe(set, frames));
}

function continues(set: FrameInfo[], next: FrameInfo, gap: number): boolean {
  const last = set.at(-1)!;
  if (next.width !== last.width || next.height !== last.height || next.exif.camera !== last.exif.camera) return false;
  if (next.exif.focalLength !== last.exif.focalLength || next.exif.aperture !== last.exif.aperture) return false;
  const e = exposureEv(next.exif);
  if (e === undefined || set.some((f) => { const o = exposureEv(f.exif); return o === undefined || Math.abs(o - e) < 0.2; })) return false;
  if (next.exif.takenAt === undefined || last.exif.takenAt === undefined) return false;
  // a long exposure is followed by the camera's own dark frame at times
  return next.exif.takenAt - last.exif.takenAt <= gap + 2 * Math.max(last.exif.exposureTime ?? 0, next.exif.exposureTime ?? 0);
}

function describe(set: number[], frames: readonly FrameInfo[]): FoundStack[] {
  if (set.length < 2) return set.map((i) => ({ kind: "single", frames: [i], why: "No other exposure of this view close in time", warnings: [] }));
  const evs = set.map((i) => exposureEv(frames[i]!.exif)!);
  const base = evs.slice().sort((a, b) => a - b)[Math.floor(evs.length / 2)]!;
  const sorted = evs.map((e) => roundEv(e - base)).sort((a, b) => a - b);
  const seconds = frames[set.at(-1)!]!.exif.takenAt! - frames[set[0]!]!.exif.takenAt!;
  const steps = sorted.slice(1).map((e, i) => e - sorted[i]!);
  const usual = steps.slice().sort((a, b) => a - b)[Math.floor(steps.length / 2)]!;
  const missing = steps.filter((s) => s > usual * 1.6).length;
  return [{
    kind: "bracket", frames: set,
    why: `${set.length} exposures, ${ev(sorted[0]!)} to ${ev(sorted.at(-1)!)} EV, within ${seconds.toFixed(1)} s`,
    warnings: missing ? [{ code: "exposure-missing", message: `A step of ${ev(Math.max(...steps))} EV among steps of ${ev(usual)}: an exposure seems to be missing` }] : [],
  }];
}
