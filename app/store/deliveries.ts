import * as v from "valibot";
import { BUILT_IN_DELIVERIES } from "../../pipeline/deliver/deliveries";
import { DeliverySchema, type Delivery } from "../../pipeline/deliver/settings";
import { db, storageError } from "./db";
import { exclusively } from "./exclusive";
import { tellTabs } from "./tabs";

const KEY = "deliveries";
/** So many deliveries of one's own are kept. */
const MOST_KEPT = 100;

/** A delivery that is offered for any stack; the user's own can be taken off the list. */
export interface OfferedDelivery {
  delivery: Delivery;
  isOwn: boolean;
}

/** Deliveries among what is stored; those that cannot be read are left out. */
const goodDeliveries = (stored: unknown): Delivery[] =>
  (Array.isArray(stored) ? stored : []).flatMap((delivery) => {
    const read = v.safeParse(DeliverySchema, delivery);
    return read.success ? [read.output] : [];
  });

/** The user's own deliveries. */
const readOwn = async (): Promise<Delivery[]> =>
  goodDeliveries(await (await db()).get("settings", KEY));

/** What is offered for any stack: one's own in the place of built-in ones of the same name. */
export async function readDeliveries(): Promise<OfferedDelivery[]> {
  const own = await readOwn();
  const isReplaced = ({ name }: Delivery): boolean => own.some((other) => other.name === name);
  return [
    ...BUILT_IN_DELIVERIES.filter((delivery) => !isReplaced(delivery)).map((delivery) => ({
      delivery,
      isOwn: false,
    })),
    ...own.map((delivery) => ({ delivery, isOwn: true })),
  ];
}

const writeOwn = (change: (own: Delivery[]) => Delivery[]): Promise<void> =>
  exclusively(async () => {
    const own = change(await readOwn()).slice(-MOST_KEPT);
    await (await db()).put("settings", own, KEY);
    tellTabs({ what: "changed" });
  }).catch((e: unknown) => {
    throw storageError(e);
  });

/** Keeps a delivery for all stacks, in place of one of the same name. */
export const keepDelivery = (delivery: Delivery): Promise<void> =>
  writeOwn((own) => [
    ...own.filter(({ name }) => name !== delivery.name),
    { ...delivery, on: true },
  ]);

/** Takes one of the user's own off the list; stacks that have it keep it. */
export const dropDelivery = (name: string): Promise<void> =>
  writeOwn((own) => own.filter((delivery) => delivery.name !== name));

/** Keeps deliveries of a backup, but for those whose names are taken. */
export const restoreDeliveries = (stored: unknown): Promise<void> =>
  writeOwn((own) => {
    const names = own.map(({ name }) => name);
    return [...own, ...goodDeliveries(stored).filter(({ name }) => !names.includes(name))];
  });
