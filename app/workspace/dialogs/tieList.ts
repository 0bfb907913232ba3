import type { PanoramaRecipe } from "../../../pipeline/recipe/recipe";
import type { Layout } from "../../../pipeline/panorama/layout";

/**
 * A tie as the table lists it: frames by their place among those that take part, places in shares
 * of them.
 */
export interface Tie {
  key: string;
  a: number;
  b: number;
  from: [number, number];
  to: [number, number];
  /** undefined where it holds no frame yet */
  errorPx: number | undefined;
  /** of the recipe, if it was set manually */
  own?: string;
}
type Own = PanoramaRecipe["panorama"]["ties"][number];
interface Used {
  id: string;
  name: string;
  width: number;
  height: number;
}

const near = (p: readonly [number, number], q: readonly [number, number]): boolean =>
  Math.hypot(p[0] - q[0], p[1] - q[1]) < 1e-4;
const isOf = (f: Used, name: string): boolean => f.id === name || f.name === name;

/**
 * All ties of a panorama: those set manually that hold nothing yet, then the worst first.
 *
 * @param layout  nothing where no frame has found its place
 */
export function tieList(
  layout: Pick<Layout, "pairs" | "cameras"> | undefined,
  frames: readonly Used[],
  own: readonly Own[],
): Tie[] {
  const set = own.flatMap((t): Tie[] => {
    const a = frames.findIndex((f) => isOf(f, t.a));
    const b = frames.findIndex((f) => isOf(f, t.b));
    const key = `own/${t.id}`;
    return a < 0 || b < 0 || a === b
      ? []
      : [
          a < b
            ? { key, a, b, from: t.from, to: t.to, errorPx: undefined, own: t.id }
            : { key, a: b, b: a, from: t.to, to: t.from, errorPx: undefined, own: t.id },
        ];
  });
  const used = (layout?.pairs ?? []).flatMap(({ a, b, points, errors }) => {
    const [ca, cb] = [layout?.cameras[a], layout?.cameras[b]];
    const mine = set.filter((t) => t.a === a && t.b === b);
    return !frames[a] || !frames[b] || !ca || !cb
      ? []
      : points.map(([ax, ay, bx, by], i): Tie => {
          const from: [number, number] = [ax / ca.width, ay / ca.height];
          const hand = mine.find((m) => near(m.from, from))?.own;
          return {
            key: `${a}/${b}/${ax.toFixed(1)}/${ay.toFixed(1)}`,
            a,
            b,
            from,
            to: [bx / cb.width, by / cb.height],
            errorPx: errors[i] ?? 0,
            ...(hand !== undefined ? { own: hand } : {}),
          };
        });
  });
  const holding = new Set(used.flatMap((t) => t.own ?? []));
  return [
    ...set.filter((t) => !holding.has(t.own!)),
    ...used.sort((p, q) => q.errorPx! - p.errorPx!),
  ];
}

/** The recipe's ties without these: found ones are removed, those set manually are taken away. */
export function without(
  { ties, dropped }: Pick<PanoramaRecipe["panorama"], "ties" | "dropped">,
  gone: readonly Tie[],
  frames: readonly Used[],
): Pick<PanoramaRecipe["panorama"], "ties" | "dropped"> {
  const own = new Set(gone.flatMap((t) => t.own ?? []));
  return {
    ties: ties.filter((t) => !own.has(t.id)),
    dropped: [
      ...dropped,
      ...gone
        .filter((t) => t.own === undefined)
        .map((t) => ({ a: frames[t.a]!.id, b: frames[t.b]!.id, from: t.from })),
    ].slice(-2000),
  };
}
