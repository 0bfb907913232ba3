import { Fact } from "../../../ui/Fact";
import { plainNumber } from "../../../ui/format";
import type { Size } from "../../picture/viewport";

interface Props {
  out: Size;
  ppi: number;
  /** what its delivery takes, asked only where it is shown */
  expected: (() => { bytes: number; ms: number }) | undefined;
}

const CM = 2.54;

/** So long, as one says it: to the second, and to half a minute where it is long. */
export function roughly(ms: number): [value: string, unit: string] {
  const s = ms / 1000;
  if (s < 1.5) return ["1", "s"];
  if (s < 90) return [String(s < 20 ? Math.round(s) : Math.round(s / 5) * 5), "s"];
  return [plainNumber(Math.round(s / 30) / 2, s < 600 ? 1 : 0).replace(/\.0$/, ""), "min"];
}

/** What a file will be, and what making it takes, before it is made. */
export function OutputFacts({ out: { width, height }, ppi, expected: ask }: Props) {
  const print = (by: number): string =>
    `${plainNumber((width / ppi) * by)} × ${plainNumber((height / ppi) * by)}`;
  const expected = ask?.();
  const time = expected && roughly(expected.ms);
  return (
    <dl aria-label="The file" className="mt-2 grid grid-cols-[auto_1fr_28px] gap-x-2 gap-y-0.5">
      <Fact what="Size" value={`${width} × ${height}`} unit="px" />
      <Fact what="Pixels" value={plainNumber((width * height) / 1e6)} unit="MP" />
      <Fact what={`At ${ppi} ppi`} value={print(CM)} unit="cm" />
      <Fact what="" value={print(1)} unit="in" />
      <Fact what="Takes about" value={time?.[0]} unit={time?.[1] ?? "s"} />
      <Fact
        what="Memory, at most"
        value={expected && plainNumber(expected.bytes / 2 ** 30)}
        unit="GiB"
      />
    </dl>
  );
}
