import { useRef, useState, type PointerEvent } from "react";
import type { Layout } from "../../../pipeline/panorama/layout";
import { seenFrom } from "./plateOutlines";
import { Button } from "../../ui/Button";
import { plainNumber } from "../../ui/format";

interface Props {
  layout: Layout;
  names: readonly string[];
  shown: number | undefined;
  onShow: (i: number | undefined) => void;
  onTies: (pair?: readonly [number, number]) => void;
  /** a place of the picture and where it is to lie, in shares of it */
  onTurn: (from: [number, number], to: [number, number]) => void;
}

/**
 * The ladder of a panorama: its frames as plates where they lie on the picture, which are dragged
 * to where they are to lie, and how well each fits.
 */
export function Plates({ layout, names, shown, onShow, onTies, onTurn }: Props) {
  const { canvas, cameras, rmsPx, flat, duplicates } = layout;
  const same = (i: number): string | undefined => {
    const d = duplicates.find((e) => e.frame === i);
    return d && `same as ${names[d.of]}`;
  };
  const outlines = cameras.map((c) => (c ? seenFrom(c, canvas) : undefined));
  const rms = (e: readonly number[]): number =>
    Math.sqrt(e.reduce((s, v) => s + v * v, 0) / Math.max(1, e.length));
  const worst = [...layout.pairs].sort((p, q) => rms(q.errors) - rms(p.errors)).slice(0, 5);
  const svg = useRef<SVGSVGElement>(null);
  const taken = useRef<DOMPoint | undefined>(undefined);
  const dragged = useRef(false);
  const [by, setBy] = useState<readonly [number, number]>();
  const place = (e: PointerEvent): DOMPoint =>
    new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.current!.getScreenCTM()!.inverse());
  const show = (i: number): void => {
    if (!dragged.current) onShow(shown === i ? undefined : i);
  };
  return (
    <>
      <svg
        ref={svg}
        onPointerDown={(e) => {
          taken.current = place(e);
          dragged.current = false;
        }}
        onPointerLeave={() => {
          taken.current = undefined;
          setBy(undefined);
        }}
        onPointerMove={(e) => {
          const at = taken.current;
          const now = place(e);
          if (
            !at ||
            (!dragged.current && Math.hypot(now.x - at.x, now.y - at.y) < 0.01 * canvas.width)
          )
            return;
          dragged.current = true;
          setBy([now.x - at.x, now.y - at.y]);
        }}
        onPointerUp={(e) => {
          const at = taken.current;
          const now = place(e);
          taken.current = undefined;
          setBy(undefined);
          if (at && dragged.current)
            onTurn(
              [at.x / canvas.width, at.y / canvas.height],
              [now.x / canvas.width, now.y / canvas.height],
            );
        }}
        viewBox={`${-canvas.width * 0.02} ${-canvas.height * 0.02} ${canvas.width * 1.04} ${canvas.height * 1.04}`}
        role="img"
        aria-label={`${cameras.filter(Boolean).length} of ${cameras.length} frames placed`}
        className="max-h-40 w-full touch-none rounded bg-well"
      >
        <g transform={by && `translate(${by[0]} ${by[1]})`}>
          {outlines.map(
            (o, i) =>
              o &&
              o.map((points, k) => (
                <polygon
                  key={`${i}/${k}`}
                  points={points.map((p) => p.join(",")).join(" ")}
                  onClick={() => show(i)}
                  fill={shown === i ? "var(--accent)" : "var(--quiet)"}
                  fillOpacity={shown === i ? 0.35 : 0.1}
                  stroke={shown === i ? "var(--accent)" : "var(--quiet)"}
                  vectorEffect="non-scaling-stroke"
                  strokeWidth={1.25}
                  className="cursor-pointer"
                />
              )),
          )}
        </g>
      </svg>
      <table className="mt-2 w-full text-[12px]">
        <thead>
          <tr className="text-left text-quiet">
            <th className="font-normal">Frame</th>
            <th className="text-right font-normal">ties, px</th>
            <th className="text-right font-normal">light, EV</th>
          </tr>
        </thead>
        <tbody>
          {names.map((n, i) => (
            <tr key={i} className={shown === i ? "bg-raised" : ""}>
              <td className="max-w-24 truncate">
                <button
                  type="button"
                  className="max-w-full truncate rounded hover:underline"
                  onClick={() => onShow(shown === i ? undefined : i)}
                >
                  {n}
                </button>
              </td>
              {cameras[i] ? (
                <>
                  <td
                    className="text-right"
                    title={
                      !flat && cameras[i].offset
                        ? `Shows the floor, taken from ${plainNumber(Math.hypot(...cameras[i].offset.by), 2)} camera heights beside the others`
                        : undefined
                    }
                  >
                    {!flat && cameras[i].offset ? "beside, " : ""}
                    {plainNumber(rmsPx[i]!, 2)}
                  </td>
                  <td className="text-right">
                    {plainNumber(Math.log2(layout.light.gains[i]![1]), 2)}
                  </td>
                </>
              ) : (
                <td colSpan={2} className="max-w-24 truncate text-right">
                  {same(i) ?? "left out"}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {worst.length > 0 && (
        <>
          <h3 className="mb-1 mt-3 text-[12px] text-quiet">Worst pairs</h3>
          <table aria-label="Worst pairs" className="w-full text-[12px]">
            <tbody>
              {worst.map((p) => (
                <tr key={`${p.a}/${p.b}`}>
                  <td className="max-w-32 truncate">
                    <button
                      type="button"
                      className="max-w-full truncate rounded hover:underline"
                      onClick={() => onTies([p.a, p.b])}
                    >
                      {names[p.a]} – {names[p.b]}
                    </button>
                  </td>
                  <td className="whitespace-nowrap pl-1 text-right">{p.points.length}</td>
                  <td className="whitespace-nowrap pl-2 text-right">
                    {plainNumber(rms(p.errors), 2)} px
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      <Button
        className="mt-2 w-full"
        onClick={() => onTies()}
        hint="All tie points with their errors; add and remove manually (T)"
      >
        Ties
      </Button>
    </>
  );
}
