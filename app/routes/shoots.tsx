import * as v from "valibot";
import { demoWanted } from "../store/demo";
import { describeShoot, listShelf } from "../store/shelf";
import { deleteShoot } from "../store/shoots";
import { storageEstimate } from "../store/persistence";
import { ShelfIntentSchema } from "../shelf/intent";
import { ShelfScreen } from "../shelf/ShelfScreen";
import { stopBringingInto } from "../work/bringing";
import { stopWorkOf } from "../work/jobs";
import type { Route } from "./+types/shoots";

export async function clientLoader() {
  const [shelf, demo, estimate] = await Promise.all([listShelf(), demoWanted(), storageEstimate()]);
  return { shelf, demo, estimate };
}

export async function clientAction({ request }: Route.ClientActionArgs) {
  const asked = v.parse(ShelfIntentSchema, await request.json());
  if (asked.intent === "describe") {
    await describeShoot(asked.shoot, asked.words);
    return null;
  }
  stopWorkOf(asked.shoot);
  stopBringingInto(asked.shoot);
  await deleteShoot(asked.shoot);
  return null;
}

/** The shelf: shoots, what is left to do, and what is looked for in them. */
export default function Shelf({ loaderData }: Route.ComponentProps) {
  return <ShelfScreen {...loaderData} />;
}
