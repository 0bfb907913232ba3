import { deliver } from "../../work/deliveries";
import { deliveryOf, isUnderWay, tray } from "../../work/jobs";
import type { Workspace } from "../state/workspace";

/** Renders and saves, unless that is under way: the same once more would only be a second file. */
export function startDelivery({ record, members, recipe }: Workspace): void {
  const { stack, take, shoot } = record();
  const last = deliveryOf(tray.getState(), stack.id);
  if (last && isUnderWay(last)) return;
  const infos = members.map(({ info }) => info);
  void deliver(shoot, [{ stack, take: take.name, recipe: recipe(), infos }]);
}
