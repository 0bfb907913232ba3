import * as v from "valibot";
import { stopBringingInto } from "../work/bringing";
import { stopWorkOf } from "../work/jobs";
import { clearKept, setKeptLimit } from "../store/keptMerges";
import { deleteShoot } from "../store/shoots";
import { readUsage } from "../store/usage";
import { StorageIntentSchema } from "../storage/intent";
import { StorageScreen } from "../storage/StorageScreen";
import type { Route } from "./+types/storage";

export const clientLoader = () => readUsage();

export async function clientAction({ request }: Route.ClientActionArgs) {
  const asked = v.parse(StorageIntentSchema, await request.json());
  if (asked.intent === "limit") await setKeptLimit(asked.bytes);
  else if (asked.intent === "delete")
    for (const shoot of asked.shoots) {
      stopWorkOf(shoot);
      stopBringingInto(shoot);
      await deleteShoot(shoot);
    }
  else if (asked.shoots === null) await clearKept();
  else for (const shoot of asked.shoots) await clearKept(shoot);
  return null;
}

/** What takes space, what can go, backup and restore. */
export default function Storage({ loaderData }: Route.ComponentProps) {
  return <StorageScreen usage={loaderData} />;
}
