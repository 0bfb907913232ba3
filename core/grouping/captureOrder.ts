import type { FrameInfo } from "../frame/frame";

/** Numbers in a name count as numbers, so that frame 10 follows frame 9. */
export const byName = new Intl.Collator("en", { numeric: true }).compare;

/**
 * The order in which the frames were taken, camera by camera: by file number where a camera
 * numbered them through, also over 9999, since clocks get set between two frames and numbers do
 * not; else by time, else by name.
 *
 * @returns one list of indices for each camera, the first to begin first
 */
export function captureOrder(frames: readonly FrameInfo[]): number[][] {
  const cameras = new Map<string, number[]>();
  frames.forEach((f, i) => {
    const key = `${f.exif.camera ?? ""} ${f.exif.serial ?? ""}`;
    cameras.set(key, [...(cameras.get(key) ?? []), i]);
  });
  const time = (i: number): number => frames[i]!.exif.takenAt ?? Infinity;
  const lists = [...cameras.values()].map(
    (list) =>
      byNumber(list, frames) ??
      [...list].sort((a, b) =>
        time(a) === time(b) ? byName(frames[a]!.name, frames[b]!.name) : time(a) - time(b),
      ),
  );
  return lists.sort((a, b) =>
    time(a[0]!) === time(b[0]!) ? a[0]! - b[0]! : time(a[0]!) - time(b[0]!),
  );
}

/** By number, if all share a prefix and the clock agrees but for a jump here and there. */
function byNumber(list: readonly number[], frames: readonly FrameInfo[]): number[] | undefined {
  const parts = list.map((i) => /^(.*?)(\d{3,6})\.[^.]+$/.exec(frames[i]!.name));
  if (list.length < 3 || parts.some((p) => !p || p[1] !== parts[0]![1])) return undefined;
  const numbered = list.map((i, k) => ({ i, n: Number(parts[k]![2]) })).sort((a, b) => a.n - b.n);
  if (new Set(numbered.map((x) => x.n)).size < numbered.length) return undefined;
  // over 9999 the count begins again: what follows the widest gap was taken first
  if (numbered[0]!.n <= 20 && numbered.at(-1)!.n >= 9980 && numbered.at(-1)!.n <= 9999) {
    let start = 0;
    let widest = 1;
    for (let k = 1; k < numbered.length; k++) {
      const gap = numbered[k]!.n - numbered[k - 1]!.n;
      if (gap > widest) {
        widest = gap;
        start = k;
      }
    }
    if (widest > 1000) numbered.push(...numbered.splice(0, start));
  }
  const times = numbered.map((x) => frames[x.i]!.exif.takenAt);
  const back = times.filter(
    (t, k) => k > 0 && t !== undefined && times[k - 1] !== undefined && t < times[k - 1]! - 2,
  ).length;
  return back <= 1 + list.length * 0.02 ? numbered.map((x) => x.i) : undefined;
}
