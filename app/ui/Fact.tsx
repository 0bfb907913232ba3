/**
 * A measurement in a list of three columns: what, how much (a dash until it is known), in what
 * unit.
 */
export function Fact({
  what,
  value,
  unit,
}: {
  what: string;
  value: string | undefined;
  unit: string;
}) {
  return (
    <>
      <dt className="text-quiet">{what}</dt>
      <dd className="whitespace-nowrap text-right">{value ?? "–"}</dd>
      <dd className="text-[12px] text-quiet">{unit}</dd>
    </>
  );
}
