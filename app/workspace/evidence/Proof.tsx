import type { Fact as Measured } from "../../../pipeline/step";
import { Fact } from "../../ui/Fact";
import { plainNumber } from "../../ui/format";
import { useRecipe, useSession } from "../state/workspace";

/** What a bracket's proof will hold, before it is measured. */
const NOT_MEASURED: readonly Measured[] = (
  [
    ["Scene range", "EV"],
    ["Clipped, bright", "%"],
    ["Black, darkest", "%"],
    ["Moving parts", "%"],
    ["Range gained", "EV"],
    ["Shadows gained", "dB"],
    ["Moved, longest", "px"],
    ["Alignment, worst", "px"],
  ] as const
).map(([what, unit]) => ({ what, unit, value: 0, digits: 1 }));

/** The merge in numbers. */
export function Proof() {
  const { kind } = useRecipe();
  const facts = useSession((s) => s.facts);
  const shown = facts.length || kind !== "bracket" ? facts : NOT_MEASURED;
  return (
    <>
      <h2 className="mb-1 mt-4 font-semibold">Proof</h2>
      <dl className="grid grid-cols-[1fr_auto_28px] gap-x-2 gap-y-0.5">
        {shown.map((fact) => (
          <Fact
            key={fact.what}
            what={fact.what}
            value={facts.length ? plainNumber(fact.value, fact.digits) : undefined}
            unit={fact.unit}
          />
        ))}
      </dl>
    </>
  );
}
