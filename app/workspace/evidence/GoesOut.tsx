import { LEVELS, type OutHistogram } from "../../../core/finish/outHistogram";
import { Fact } from "../../ui/Fact";
import { plainNumber } from "../../ui/format";
import { useSession } from "../state/workspace";

const WIDTH = 212;
const HEIGHT = 64;
const INKS = ["#d0645c", "#62a56c", "#6f94d6"] as const;
const NAMES = ["red", "green", "blue"] as const;

/** One channel's levels as a line; the square root lets small shares be seen. */
function pathOf(counts: readonly number[], peak: number): string {
  const points = counts.map((count, i) => {
    const x = (i / (LEVELS - 1)) * WIDTH;
    const y = HEIGHT - Math.sqrt(count / peak) * (HEIGHT - 2);
    return `${x.toFixed(1)},${y.toFixed(1)}`;
  });
  return `M${points.join("L")}`;
}

/** What all three channels share, as an area. */
function sharedOf({ channels: [red, green, blue] }: OutHistogram): number[] {
  return red.map((count, i) => Math.min(count, green[i]!, blue[i]!));
}

/** The levels of the picture as it goes out, and how much of it is at either end. */
export function GoesOut() {
  const histogram = useSession((s) => s.goesOut);
  const peak = histogram ? Math.max(1, ...histogram.channels.flat()) : 1;
  const ends = histogram
    ? `${plainNumber(histogram.white * 100, 2)} % at white, ${plainNumber(histogram.black * 100, 2)} % at black`
    : "not shown yet";
  return (
    <section aria-label="Goes out">
      <h2 className="mb-1 font-semibold">Goes out</h2>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`Levels: ${ends}`}
        className="mb-1 w-full border-b border-line"
      >
        {histogram && (
          <>
            <path
              d={`${pathOf(sharedOf(histogram), peak)}L${WIDTH},${HEIGHT}L0,${HEIGHT}Z`}
              fill="var(--line)"
            />
            {histogram.channels.map((counts, c) => (
              <path
                key={NAMES[c]}
                d={pathOf(counts, peak)}
                fill="none"
                stroke={INKS[c]}
                strokeWidth={1}
              />
            ))}
          </>
        )}
      </svg>
      <dl className="grid grid-cols-[1fr_auto_28px] gap-x-2 gap-y-0.5">
        <Fact what="At white" value={histogram && plainNumber(histogram.white * 100, 2)} unit="%" />
        <Fact what="At black" value={histogram && plainNumber(histogram.black * 100, 2)} unit="%" />
      </dl>
    </section>
  );
}
