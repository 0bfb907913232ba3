import { useEffect, useState } from "react";
import type { JudgedPicture } from "../../pipeline/tone/tasks";
import { plainNumber } from "../ui/format";
import { differencesSaid } from "./differences";
import type { Side } from "./useSides";

/** A place that was picked, with its colour on each side, 8-bit. */
export interface Picked {
  place: readonly [number, number];
  colours: readonly (readonly number[] | undefined)[];
}

interface Row {
  name: string;
  unit: string;
  of: (numbers: JudgedPicture, side: Side) => string;
}
const percent = (share: number): string => plainNumber(share * 100, 1);

const ROWS: readonly Row[] = [
  {
    name: "Scene range",
    unit: "EV",
    of: (_, { session }) => plainNumber(session.state.statistics?.rangeEv ?? 0, 1),
  },
  { name: "At white", unit: "%", of: ({ white }) => percent(white) },
  { name: "At black", unit: "%", of: ({ black }) => percent(black) },
  { name: "Mean", unit: "%", of: ({ mean }) => percent(mean) },
  { name: "Contrast", unit: "%", of: ({ contrast }) => percent(contrast) },
  { name: "Colour", unit: "%", of: ({ colour }) => percent(colour) },
  { name: "Sharpness", unit: "", of: ({ sharpness }) => plainNumber(sharpness, 2) },
  {
    name: "Darks over noise",
    unit: "dB",
    of: ({ darkDb }) => (darkDb === undefined ? "\u2013" : plainNumber(darkDb, 1)),
  },
  { name: "TMQI", unit: "", of: ({ tmqi }) => plainNumber(tmqi, 3) },
];

/** The sides in numbers, what differs between them, and the places that were picked. */
export function CompareNumbers({
  sides,
  picked,
}: {
  sides: readonly Side[];
  picked: readonly Picked[];
}) {
  const numbers = useJudged(sides);
  const [first, ...others] = sides;
  return (
    <section
      aria-label="In numbers"
      className="grid max-h-64 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-6 overflow-y-auto border-t border-line bg-panel px-4 py-3"
    >
      <table className="h-fit tabular-nums">
        <thead className="text-[12px] text-quiet">
          <tr>
            <th />
            {sides.map(({ name }, i) => (
              <th key={i} className="max-w-32 truncate pl-4 text-right font-normal">
                {i + 1} {name}
              </th>
            ))}
            <th />
          </tr>
        </thead>
        <tbody>
          {ROWS.map(({ name, unit, of }) => (
            <tr key={name}>
              <td className="text-quiet">{name}</td>
              {sides.map((side, i) => (
                <td key={i} className="pl-4 text-right">
                  {numbers[i] ? of(numbers[i], side) : "\u2013"}
                </td>
              ))}
              <td className="pl-1 text-[12px] text-quiet">{unit}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="min-w-0">
        <h2 className="font-semibold">What differs</h2>
        {first &&
          others.map((side, i) => {
            const said = differencesSaid(first.recipe, side.recipe);
            return (
              <p key={i} className="text-quiet">
                {i + 2} {side.name}: {said.length ? said.join("; ") : "nothing but the frames"}
              </p>
            );
          })}
        {picked.length > 0 && (
          <table aria-label="Picked places" className="mt-2 tabular-nums">
            <tbody>
              {picked.map(({ place, colours }, i) => (
                <tr key={i}>
                  <td className="pr-3 text-quiet">
                    {percent(place[0])}, {percent(place[1])}
                    {"\u00a0"}%
                  </td>
                  {colours.map((rgb, side) => (
                    <td key={side} className="pr-3">
                      <span
                        aria-hidden
                        className="mr-1 inline-block size-3 rounded-sm align-middle"
                        style={rgb ? { background: `rgb(${rgb.join(" ")})` } : {}}
                      />
                      {rgb ? rgb.join(" ") : "\u2013"}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </section>
  );
}

/** Each side measured once it is merged; frames are not judged against a scene. */
function useJudged(sides: readonly Side[]): readonly (JudgedPicture | undefined)[] {
  const [judged, setJudged] = useState<readonly (JudgedPicture | undefined)[]>([]);
  const [, setCount] = useState(0);
  useEffect(() => {
    const stops = sides.map(({ session }) => session.store.subscribe(() => setCount((n) => n + 1)));
    return () => stops.forEach((stop) => stop());
  }, [sides]);
  const ready = sides.map(({ session }) => session.state.phase).join();
  useEffect(() => {
    let isCurrent = true;
    void (async () => {
      const found: (JudgedPicture | undefined)[] = [];
      for (const { session, recipe, frame } of sides) {
        const numbers =
          frame === undefined ? await session.judge(recipe).catch(() => undefined) : undefined;
        if (!isCurrent) return;
        found.push(numbers);
        setJudged([...found]);
      }
    })();
    return () => {
      isCurrent = false;
    };
  }, [sides, ready]);
  return judged;
}
