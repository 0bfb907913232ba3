import { median } from "../../math/median";
import type { Tie, VerifiedPair } from "./verifyPair";

/** Weights of the two parts of a tie's error, upper triangle by rows. */
export type TieWeight = readonly [xx: number, xy: number, yy: number];
const PLAIN: TieWeight = [1, 0, 1];

/**
 * What the parts of a tie's error weigh, by how exactly it was measured; 1 in the middle of all
 * ties. One of which that is not known weighs 1, too.
 */
export function tieWeights(pairs: readonly VerifiedPair[]): (tie: Tie) => TieWeight {
  const measured = pairs.flatMap(({ points }) =>
    points.flatMap(([, , , , xx, , yy]) => (xx === undefined ? [] : [(xx + yy!) / 2])),
  );
  const middle = median(measured);
  if (!(middle > 0)) return () => PLAIN;
  return ([, , , , xx, xy, yy]) =>
    xx === undefined ? PLAIN : [xx / middle, xy! / middle, yy! / middle];
}
