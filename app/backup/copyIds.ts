import type { ShootFile } from "./format";

/** The ids that a shoot's records have. */
const idsOf = ({ shoot, frames, stacks, takes }: ShootFile): string[] =>
  [shoot, ...frames, ...stacks, ...takes].flatMap(({ id }) =>
    typeof id === "string" && id ? [id] : [],
  );

/**
 * A shoot under ids of its own, so that it can stand beside the one that it was made from. Ids are
 * long and random: wherever one stands in a record, it means that record.
 */
export function withNewIds(file: ShootFile): ShootFile {
  const fresh = new Map(idsOf(file).map((id) => [id, crypto.randomUUID()]));
  const renamed = (value: unknown): unknown => {
    if (typeof value === "string") return fresh.get(value) ?? value;
    if (Array.isArray(value)) return value.map(renamed);
    if (typeof value !== "object" || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, inner]) => [fresh.get(key) ?? key, renamed(inner)]),
    );
  };
  const { shoot, frames, stacks, takes, results, history, ...rest } = file;
  return {
    ...rest,
    ...(renamed({ shoot, frames, stacks, takes, results, history }) as Pick<
      ShootFile,
      "shoot" | "frames" | "stacks" | "takes" | "results" | "history"
    >),
  };
}
