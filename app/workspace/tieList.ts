import type { Recipe } from "../../core/recipe/recipe";
import type { Placing } from "../../core/steps/panorama/placing";

/** A tie as the table lists it: frames by their place among those that take part, places in shares of them. */
export interface Tie { key: string; a: number; b: number; from: [number, number]; to: [number, number]; errorPx: number; /** of the recipe, if it was set by hand */ own?: string }
type Own = Recipe["panorama"]["ties"][number];
interface Used { id: string; name: string; width: number; height: number }

const near = (p: readonly [number, number], q: readonly [number, number]): boolean => Math.hypot(p[0] - q[0], p[1] - q[1]) < 1e-4;
const isOf = (f: Used, name: string): boolean => f.id === name || f.name === name;

/** All ties of a panorama, the worst first. */
export function tieList({ pairs, cameras }: Pick<Placing, "pairs" | "cameras">, frames: readonly Used[], own: readonly Own[]): Tie[] {
  return pairs.flatMap(({ a, b, points, errors }) => {
    const [A, B, ca, cb] = [frames[a], frames[b], cameras[a], cameras[b]];
    if (!A || !B || !ca || !cb) return [];
    const mine = own.flatMap((t) => (isOf(A, t.a) && isOf(B, t.b) ? [{ id: t.id, at: t.from }] : isOf(A, t.b) && isOf(B, t.a) ? [{ id: t.id, at: t.to }] : []));
    return points.map(([ax, ay, bx, by], i): Tie => {
      const from: [number, number] = [ax / ca.width, ay / ca.height], set = mine.find((m) => near(m.at, from));
      return { key: `${a}/${b}/${ax.toFixed(1)}/${ay.toFixed(1)}`, a, b, from, to: [bx / cb.width, by / cb.height], errorPx: errors[i] ?? 0, ...(set ? { own: set.id } : {}) };
    });
  }).sort((p, q) => q.errorPx - p.errorPx);
}

/** The recipe's ties without these: found ones are struck out, those set by hand are taken away. */
export function without({ ties, dropped }: Pick<Recipe["panorama"], "ties" | "dropped">, gone: readonly Tie[], frames: readonly Used[]): Pick<Recipe["panorama"], "ties" | "dropped"> {
  const own = new Set(gone.flatMap((t) => t.own ?? []));
  return { ties: ties.filter((t) => !own.has(t.id)), dropped: [...dropped, ...gone.filter((t) => t.own === undefined).map((t) => ({ a: frames[t.a]!.id, b: frames[t.b]!.id, from: t.from }))].slice(-2000) };
}
