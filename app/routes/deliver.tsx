import { useMemo, useState } from "react";
import { replace, useFetcher, useNavigate } from "react-router";
import * as v from "valibot";
import { runBoardEdit, type EditOutcome } from "../board/editAction";
import { deliverAddress } from "../deliver/address";
import { DeliverScreen, NothingToDeliver } from "../deliver/DeliverScreen";
import { planOf } from "../deliver/plan";
import { historyOf } from "../store/changes";
import type { DeliveryChange } from "../store/changeDelivery";
import { readDeliveries } from "../store/deliveries";
import { allShoots, readBoard } from "../store/shoots";
import { readPace } from "../work/pace";
import { pool } from "../work/pool";
import { readWeights } from "../work/weight";
import type { Route } from "./+types/deliver";

/** `?shoot=` and `?stacks=`, ids with commas between them; all stacks of the last shoot without. */
const QuerySchema = v.object({
  shoot: v.nullable(v.pipe(v.string(), v.maxLength(100))),
  stacks: v.nullable(v.pipe(v.string(), v.maxLength(100000))),
});

export async function clientLoader({ request }: Route.ClientLoaderArgs) {
  const query = new URL(request.url).searchParams;
  const { shoot: wanted, stacks } = v.parse(QuerySchema, {
    shoot: query.get("shoot"),
    stacks: query.get("stacks"),
  });
  const shoots = await allShoots();
  const [newest] = shoots;
  if (wanted === null && newest) throw replace(deliverAddress(newest.id));
  const offered = await readDeliveries();
  if (wanted === null) return { shoots, board: undefined, history: {}, offered };
  const [board, history] = await Promise.all([readBoard(wanted), historyOf(wanted)]);
  return { shoots, board, history, offered, stacks: stacks?.split(",") };
}

export const clientAction = async ({ request }: Route.ClientActionArgs) => {
  const query = new URL(request.url).searchParams;
  return runBoardEdit(query.get("shoot") ?? "", await request.json().catch(() => undefined));
};

/** What goes out: stacks as rows, their deliveries as columns. */
export default function Deliver({ loaderData }: Route.ComponentProps) {
  const { shoots, board, history, offered, stacks } = loaderData;
  const navigate = useNavigate();
  const fetcher = useFetcher<EditOutcome>();
  const [leftOut, setLeftOut] = useState<ReadonlySet<string>>(new Set());
  const plan = useMemo(
    () =>
      board &&
      planOf(board, stacks && new Set(stacks), leftOut, {
        budget: pool().budget,
        pace: readPace(),
        weights: readWeights(),
      }),
    [board, stacks, leftOut],
  );
  if (!board || !plan) return <NothingToDeliver />;
  const change = (ids: readonly string[], what: DeliveryChange): void =>
    void fetcher.submit({ intent: "delivery", stacks: [...ids], change: what } as never, {
      method: "post",
      encType: "application/json",
      action: deliverAddress(board.shoot.id),
    });
  return (
    <DeliverScreen
      key={board.shoot.id}
      shoot={board.shoot}
      shoots={shoots}
      onShoot={(id) => void navigate(deliverAddress(id))}
      plan={plan}
      all={stacks ? board.stacks.filter((s) => !s.parentId).length : plan.stacks.length}
      history={history}
      offered={offered}
      failed={fetcher.data?.failed}
      isUnsaved={fetcher.state !== "idle"}
      leftOut={leftOut}
      onLeftOut={setLeftOut}
      onChange={change}
    />
  );
}
