import { db } from "./db";
import { keptByShoot, keptLimit } from "./keptMerges";
import { promised, storageEstimate, type Promised } from "./persistence";
import type { Shoot } from "./records";

/** What a shoot takes, bytes. */
export interface ShootUse {
  shoot: Shoot;
  frames: number;
  originals: number;
  /** small pictures of its frames and stacks */
  pictures: number;
  /** merges that are kept so that its stacks open at once */
  kept: number;
}

export interface Usage {
  shoots: ShootUse[];
  /** all kept merges, also of frames that are in no shoot any more */
  kept: number;
  keptLimit: number;
  /** all that the browser stores for Rhizome, and what it grants; undefined where it does not tell */
  estimate: { used: number; granted: number } | undefined;
  promised: Promised;
}

const sum = (numbers: readonly number[]): number => numbers.reduce((all, n) => all + n, 0);

/** What takes room, by shoot. */
export async function readUsage(): Promise<Usage> {
  const d = await db();
  const frames = await d.getAll("frames");
  const kept = await keptByShoot(new Map(frames.map(({ hash, shootId }) => [hash, shootId])));
  const thumbnails = new Map<string, number>();
  const tx = d.transaction("thumbnails");
  for (let at = await tx.store.openCursor(); at; at = await at.continue())
    thumbnails.set(at.key, at.value.size);
  const results = await d.getAll("results");
  const shoots = (await d.getAll("shoots")).sort((a, b) => b.createdAt - a.createdAt);
  return {
    shoots: shoots.map((shoot): ShootUse => {
      const own = frames.filter(({ shootId }) => shootId === shoot.id);
      const merged = results.filter(({ shootId }) => shootId === shoot.id);
      return {
        shoot,
        frames: own.length,
        originals: sum(own.map(({ size }) => size)),
        pictures:
          sum(own.map(({ hash }) => thumbnails.get(hash) ?? 0)) +
          sum(merged.map(({ picture }) => picture.size)),
        kept: kept.get(shoot.id) ?? 0,
      };
    }),
    kept: sum([...kept.values()]),
    keptLimit: await keptLimit(),
    estimate: await storageEstimate(),
    promised: await promised(),
  };
}
