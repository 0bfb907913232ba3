import type { Stack } from "../store/records";

/**
 * What stands in one row of a panorama: of a nested one the members beside this member, of one of
 * frames those beside the frame at `place`. A panorama whose rows are not known is one row. Nothing
 * for what belongs to no panorama.
 */
export function rowMates(
  stacks: readonly Stack[],
  current: Stack,
  place: number,
): { stacks?: string[]; frames?: string[] } | undefined {
  const outer = stacks.find((s) => s.id === current.parentId);
  if (outer) {
    const members = stacks.filter((s) => s.parentId === outer.id).sort((a, b) => a.order - b.order);
    const own = members.indexOf(current);
    const row = outer.rows?.find((r) => r.includes(own));
    return { stacks: (row ?? members.map((_, i) => i)).flatMap((i) => members[i]?.id ?? []) };
  }
  if (current.kind !== "panorama" || !current.frameIds.length) return undefined;
  return {
    frames: (
      current.rows?.find((r) => r.includes(place)) ?? current.frameIds.map((_, i) => i)
    ).flatMap((i) => current.frameIds[i] ?? []),
  };
}
