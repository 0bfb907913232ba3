import * as v from "valibot";

/** A stored record that does not read as what it should be. */
export interface BadRecord {
  /** what it should be, in a word */
  what: string;
  id: string;
  why: string;
}

/**
 * Stored records as this version knows them: what an older one did not know has its default. Those
 * that cannot be read are set aside.
 *
 * @param bad  what was set aside is added to it
 */
export function goodRecords<T extends v.GenericSchema>(
  what: string,
  schema: T,
  records: readonly unknown[],
  bad: BadRecord[],
): v.InferOutput<T>[] {
  return records.flatMap((record) => {
    const read = v.safeParse(schema, record);
    if (read.success) return [read.output];
    const [issue] = read.issues;
    const id = String((record as { id?: unknown } | null)?.id ?? "");
    bad.push({ what, id, why: `${v.getDotPath(issue) ?? ""} ${issue.message}`.trim() });
    return [];
  });
}
