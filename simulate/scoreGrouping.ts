import type { FoundStack } from "../core/grouping/foundStack";
import type { MixedShoot } from "./mixedShoot";

export interface GroupingScore {
  /** share of frames whose stack was found whole, or by far most of it */
  framesRight: number;
  /** of stacks of three and more, those found with the right kind */
  kindsRight: number;
  stacks: number;
  /** by the true kind, singles and borders too: frames, and those in the right stack */
  byKind: Map<string, { frames: number; right: number; stacks: number; kindsRight: number }>;
  wrong: string[];
}

/**
 * Holds found stacks against the truth. A frame is right when its found stack and its true stack
 * are each other's best match and it lies in both.
 */
export function scoreGrouping(shoot: MixedShoot, found: readonly FoundStack[]): GroupingScore {
  const truth = [
    ...shoot.truth.map((t) => ({ ...t, kind: t.kind as string })),
    ...shoot.borders.map((b) => ({ kind: "single", frames: [b], members: undefined })),
  ];
  const foundOf = new Map(found.flatMap((s, k) => s.frames.map((f) => [f, k] as const)));
  const trueOf = new Map(truth.flatMap((t, k) => t.frames.map((f) => [f, k] as const)));
  const most = (confidences: number[]): number => {
    const n = new Map<number, number>();
    for (const v of confidences) n.set(v, (n.get(v) ?? 0) + 1);
    return [...n].sort((a, b) => b[1] - a[1])[0]![0];
  };
  let right = 0;
  let kindsRight = 0;
  let stacks = 0;
  const wrong: string[] = [];
  const byKind: GroupingScore["byKind"] = new Map();
  truth.forEach((t, k) => {
    const match = most(t.frames.map((f) => foundOf.get(f)!));
    const mutual = most(found[match]!.frames.map((f) => trueOf.get(f)!)) === k;
    const own = mutual ? t.frames.filter((f) => foundOf.get(f) === match).length : 0;
    right += own;
    const kind =
      mutual &&
      found[match]!.kind === t.kind &&
      (!t.members || (found[match]!.members?.length ?? 0) === t.members.length);
    if (t.frames.length >= 3) {
      stacks++;
      if (kind) kindsRight++;
    }
    const name = t.members ? "panorama of brackets" : t.kind;
    const sum = byKind.get(name) ?? { frames: 0, right: 0, stacks: 0, kindsRight: 0 };
    byKind.set(name, {
      frames: sum.frames + t.frames.length,
      right: sum.right + own,
      stacks: sum.stacks + 1,
      kindsRight: sum.kindsRight + (kind ? 1 : 0),
    });
    if (own < t.frames.length || (t.frames.length >= 3 && !kind))
      wrong.push(
        `${t.kind}${t.members ? "+" : ""} ${t.frames[0]}..${t.frames.at(-1)} found as ${[...new Set(t.frames.map((f) => foundOf.get(f)!))].map((j) => `${found[j]!.kind} ${found[j]!.frames[0]}..${found[j]!.frames.at(-1)}`).join(", ")}`,
      );
  });
  return { framesRight: right / shoot.frames.length, kindsRight, stacks, byKind, wrong };
}
