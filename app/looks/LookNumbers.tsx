import { signed } from "../ui/format";
import type { TriedLook } from "./LookGrid";
import type { PictureNumbers } from "../../core/tone/pictureNumbers";

const percent = (share: number): string => (share * 100).toFixed(1);

/** What the looks do in numbers, each beside the others. */
export function LookNumbers({
  tried,
  numbers,
}: {
  tried: readonly TriedLook[];
  numbers: Readonly<Record<string, PictureNumbers>>;
}) {
  const asItIs = numbers[tried.find(({ look }) => !look)?.id ?? ""];
  return (
    <section aria-label="In numbers" className="p-3">
      <h2 className="mb-2 font-semibold">In numbers</h2>
      <table className="w-full text-[12px] tabular-nums">
        <thead className="text-quiet">
          <tr>
            <th className="text-left font-normal">Look</th>
            <th className="pl-2 text-right font-normal">white</th>
            <th className="pl-2 text-right font-normal">light</th>
            <th className="pl-2 text-right font-normal">colour</th>
          </tr>
        </thead>
        <tbody>
          {tried.map(({ id, name, look }) => {
            const own = numbers[id];
            if (!own) return null;
            return (
              <tr key={id}>
                <td className="max-w-24 truncate py-0.5">{name}</td>
                <td className="text-right">{percent(own.white)}</td>
                <td className="text-right">{Math.round(own.mean * 100)}</td>
                <td className="text-right">
                  {look && asItIs
                    ? signed((own.colour / Math.max(1e-3, asItIs.colour) - 1) * 100, 0)
                    : "0"}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-3 text-[12px] text-quiet">
        White: share at the end, %. Light: mean, %. Colour: mean chroma against as it is, %.
      </p>
    </section>
  );
}
