import type { FewerFrames as Figures } from "../../../core/bracket/fewerFrames";
import { plainNumber, signed } from "../../ui/format";
import { Hint } from "../../ui/Button";

/** What leaving out each frame would cost, and whether one would have done. */
export function FewerFrames({
  figures: f,
  names,
  onFrame,
}: {
  figures: Figures;
  names: readonly string[];
  onFrame: (i: number) => void;
}) {
  const cost = (c: Figures["all"] | undefined): string[] =>
    c
      ? [plainNumber(f.all.shadowDb - c.shadowDb), plainNumber((c.clipped - f.all.clipped) * 100)]
      : ["–", "–"];
  return (
    <section aria-label="Fewer frames" className="mt-4">
      <Hint text="Expected from the scene's histogram and the camera's noise: noise of the darkest fifth, and share clipped.">
        <h2 className="mb-1 w-fit font-semibold">Fewer frames</h2>
      </Hint>
      <table className="w-full text-[12px]">
        <thead>
          <tr className="text-left text-quiet">
            <th className="font-normal">Without</th>
            <th className="text-right font-normal">noise, dB</th>
            <th className="text-right font-normal">clipped, %</th>
          </tr>
        </thead>
        <tbody>
          {f.without.map(
            (c, i) =>
              c && (
                <tr key={i}>
                  <td className="max-w-24 truncate">
                    <button
                      type="button"
                      className="max-w-full truncate rounded hover:underline"
                      onClick={() => onFrame(i)}
                    >
                      {names[i]}
                    </button>
                  </td>
                  {cost(c).map((v, k) => (
                    <td key={k} className="text-right">
                      {v === "0.0" ? "0" : `+${v}`}
                    </td>
                  ))}
                </tr>
              ),
          )}
          <tr className="border-t border-line">
            <td className="max-w-24 truncate">{names[f.best]} alone</td>
            {cost(f.single).map((v, k) => (
              <td key={k} className="text-right">
                {signed(Number(v))}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </section>
  );
}
