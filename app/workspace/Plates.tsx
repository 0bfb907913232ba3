import type { Placing } from "../../core/steps/panorama/placing";
import { seenFrom } from "./plateOutlines";
import { Button } from "../ui/Button";
import { plainNumber } from "../ui/format";

interface Props { placing: Placing; names: readonly string[]; shown: number | undefined; onShow: (i: number | undefined) => void; onTies: (pair?: readonly [number, number]) => void }

/** The ladder of a panorama: its frames as plates where they lie on the picture, and how well each fits. */
export function Plates({ placing, names, shown, onShow, onTies }: Props) {
  const { canvas, cameras, rmsPx } = placing, outlines = cameras.map((c) => (c ? seenFrom(c, canvas) : undefined));
  const rms = (e: readonly number[]): number => Math.sqrt(e.reduce((s, v) => s + v * v, 0) / Math.max(1, e.length)), worst = [...placing.pairs].sort((p, q) => rms(q.errors) - rms(p.errors)).slice(0, 5);
  return (
    <>
      <svg viewBox={`${-canvas.width * 0.02} ${-canvas.height * 0.02} ${canvas.width * 1.04} ${canvas.height * 1.04}`} role="img" aria-label={`${cameras.filter(Boolean).length} of ${cameras.length} frames placed`} className="max-h-40 w-full rounded bg-well">
        {outlines.map((o, i) => o && o.map((points, k) => <polygon key={`${i}/${k}`} points={points.map((p) => p.join(",")).join(" ")} onClick={() => onShow(shown === i ? undefined : i)} fill={shown === i ? "var(--accent)" : "var(--quiet)"} fillOpacity={shown === i ? 0.35 : 0.1} stroke={shown === i ? "var(--accent)" : "var(--quiet)"} vectorEffect="non-scaling-stroke" strokeWidth={1.25} className="cursor-pointer" />))}
      </svg>
      <table className="mt-2 w-full text-[12px]">
        <thead><tr className="text-left text-quiet"><th className="font-normal">Frame</th><th className="text-right font-normal">ties, px</th><th className="text-right font-normal">light, EV</th></tr></thead>
        <tbody>{names.map((n, i) => <tr key={i} className={shown === i ? "bg-raised" : ""}><td className="max-w-24 truncate"><button type="button" className="max-w-full truncate rounded hover:underline" onClick={() => onShow(shown === i ? undefined : i)}>{n}</button></td>{cameras[i] ? <><td className="text-right">{plainNumber(rmsPx[i]!, 2)}</td><td className="text-right">{plainNumber(Math.log2(placing.light.gains[i]![1]), 2)}</td></> : <td colSpan={2} className="text-right">left out</td>}</tr>)}</tbody>
      </table>
      {worst.length > 0 && <>
        <h3 className="mb-1 mt-3 text-[12px] text-quiet">Pairs that fit worst</h3>
        <table aria-label="Pairs that fit worst" className="w-full text-[12px]"><tbody>{worst.map((p) => <tr key={`${p.a}/${p.b}`}><td className="max-w-32 truncate"><button type="button" className="max-w-full truncate rounded hover:underline" onClick={() => onTies([p.a, p.b])}>{names[p.a]} – {names[p.b]}</button></td><td className="text-right">{p.points.length} ties</td><td className="text-right">{plainNumber(rms(p.errors), 2)} px</td></tr>)}</tbody></table>
      </>}
      <Button className="mt-2 w-full" onClick={() => onTies()} hint="Every tie with what it is off by; set and strike out by hand (T)">Ties</Button>
    </>
  );
}
