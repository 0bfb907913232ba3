import { deliveryOf, tray } from "../../work/jobs";
import { deliver } from "../../work/stackWork";
import type { Workspace } from "../state/workspace";

/** Renders and saves, unless that is under way: the same once more would only be a second file. */
export function startDelivery({ record, members, recipe }: Workspace): void {
  const { stack, take, shoot } = record();
  const last = deliveryOf(tray.getState(), stack.id)?.state;
  if (last !== "waiting" && last !== "running")
    deliver(stack, members, recipe(), { take: take.name, shoot: shoot.name });
}
