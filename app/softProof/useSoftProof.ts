import { useEffect, useMemo, useState } from "react";
import { useStore } from "zustand";
import type { SoftProofIntent } from "../../codecs/softProof";
import type { SpaceId } from "../../core/colour/spaces";
import { RhizomeError } from "../../core/error";
import type { SoftProofTable } from "../../core/output/softProof";
import { profileBytes, readProfiles } from "../store/profiles";
import { pool } from "../work/pool";
import type { SoftProof } from "../work/sessionState";
import { chooseProof, chosenProof } from "./chosenProof";

/** Tables that were made, by profile, intent and space. */
const tables = new Map<string, Promise<SoftProofTable>>();
const MOST_TABLES = 8;

async function makeTable(
  id: string,
  intent: SoftProofIntent,
  space: SpaceId,
): Promise<SoftProofTable> {
  const profile = await profileBytes(id);
  if (!profile)
    throw new RhizomeError(
      "profile-gone",
      "The paper's profile is not here any more.",
      "bring it in again, under Deliver",
    );
  const name = (await readProfiles()).find((kept) => kept.id === id)?.name ?? "The profile";
  return pool().run("softProofTable", { profile, name, intent, space }, { priority: "screen" });
}

function tableOf(id: string, intent: SoftProofIntent, space: SpaceId): Promise<SoftProofTable> {
  const key = `${id} ${intent} ${space}`;
  const known = tables.get(key);
  if (known) return known;
  const [oldest] = tables.keys();
  if (tables.size >= MOST_TABLES && oldest) tables.delete(oldest);
  const made = makeTable(id, intent, space);
  tables.set(key, made);
  made.catch(() => tables.delete(key));
  return made;
}

/** A table that was made, and the space that it takes. */
interface MadeTable {
  table: SoftProofTable;
  space: SpaceId;
}

/**
 * The paper that the picture is seen as on; undefined where it is seen as on screen, and until a
 * first table is made. While another one is made the picture stays as it was.
 *
 * @param space  of the file that goes out
 * @param onProblem  says why the paper cannot be shown; it is off then
 */
export function useSoftProof(
  space: SpaceId,
  onProblem: (problem: string) => void,
): SoftProof | undefined {
  const { profile, intent, isMarked, isOn } = useStore(chosenProof);
  const wanted = isOn ? profile : undefined;
  // light without a curve has no codes that a printer would be given
  const seenIn = space === "linear" ? "rec2020" : space;
  const [made, setMade] = useState<MadeTable>();
  useEffect(() => {
    if (!wanted) return;
    let live = true;
    tableOf(wanted, intent, seenIn).then(
      (table) => live && setMade({ table, space: seenIn }),
      (e: unknown) => {
        if (!live) return;
        chooseProof({ isOn: false });
        onProblem(RhizomeError.from(e).sentence);
      },
    );
    return () => {
      live = false;
    };
  }, [wanted, intent, seenIn, onProblem]);
  return useMemo(
    () => (wanted && made ? { ...made, isMarked } : undefined),
    [wanted, made, isMarked],
  );
}
