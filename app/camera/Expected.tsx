import {
  bracketEvs,
  expectBracket,
  planRun,
  planSweep,
  type CameraSettings,
} from "../../simulate/programme";
import { Fact } from "../ui/Fact";
import { plainNumber, shutter } from "../ui/format";
import { Ladder } from "../workspace/evidence/Ladder";
import type { StandIn } from "../work/standIn";
import { BRACKETS } from "./settings";

interface Props {
  camera: StandIn;
  settings: CameraSettings;
  onChange: (s: CameraSettings) => void;
}

/** What the frames will hold, before any is taken. */
export function Expected({ camera, settings: s, onChange }: Props) {
  const { scene, statistics, reach } = camera;
  const time = scene.time * (100 / s.iso);
  const evs = bracketEvs(s);
  const total = evs.reduce((t, ev) => t + time * 2 ** ev, 0);
  const sweep = reach && planSweep(s, reach);
  const run = camera.travel && planRun(s, camera.travel);
  return (
    <>
      {scene.kind === "bracket" && (
        <Bracket statistics={statistics} settings={s} time={time} onChange={onChange} />
      )}
      <h2 className="mb-1 mt-4 font-semibold">Expected</h2>
      <dl className="grid grid-cols-[1fr_auto_28px] gap-x-2 gap-y-0.5">
        {sweep && (
          <>
            <Fact what="Frames" value={String(sweep.shots.length)} unit="" />
            <Fact what="Rows × places" value={`${sweep.rows} × ${sweep.columns}`} unit="" />
            <Fact what="Field of view, across" value={plainNumber(sweep.across, 0)} unit="°" />
            <Fact what="Field of view, high" value={plainNumber(sweep.down, 0)} unit="°" />
            <Fact what="Panorama" value={plainNumber(sweep.megapixels)} unit="MP" />
          </>
        )}
        {run && (
          <>
            <Fact what="Frames" value={String(run.shots.length)} unit="" />
            <Fact what="Sharp from" value={plainNumber(run.from, 0)} unit="mm" />
            <Fact what="Sharp to" value={plainNumber(run.to, 0)} unit="mm" />
            <Fact
              what={run.overlap < 0 ? "Gap between sharp zones" : "Sharp zones overlap"}
              value={plainNumber(Math.abs(run.overlap) * 100, 0)}
              unit="%"
            />
          </>
        )}
        {!sweep && !run && (
          <Fact
            what="Exposures"
            value={`${shutter(time * 2 ** Math.min(...evs))} to ${shutter(time * 2 ** Math.max(...evs))}`}
            unit=""
          />
        )}
        <Fact
          what={sweep ? "Open at each place" : "Shutter open"}
          value={shutter(run ? time * run.shots.length : total)}
          unit=""
        />
      </dl>
      {sweep && sweep.lost > 0 && (
        <p className="mt-2 text-quiet">
          The scene has no room for{" "}
          {sweep.lost === 1 ? "one of the rows" : `${sweep.lost} of the rows`} with this lens.
        </p>
      )}
      {sweep && s.overlap < 0.2 && (
        <p className="mt-2 text-quiet">
          Under a fifth of overlap neighbours are often not found to belong together.
        </p>
      )}
      {run && run.overlap < 0 && (
        <p className="mt-2 text-quiet">
          Something stays soft between one frame and the next: a band that no merge can remove. Take
          smaller steps.
        </p>
      )}
      {run && (
        <Zones
          stops={run.shots.map((p) => p.focus)}
          last={camera.travel!.positions - 1}
          sharp={camera.travel!.sharpSteps}
        />
      )}
    </>
  );
}

function Bracket({
  statistics,
  settings: s,
  time,
  onChange,
}: {
  statistics: StandIn["statistics"];
  settings: CameraSettings;
  time: number;
  onChange: (s: CameraSettings) => void;
}) {
  const evs = [...bracketEvs(s)].sort((a, b) => a - b);
  return (
    <>
      <h2 className="mb-1 font-semibold">Scene and exposures</h2>
      <Ladder
        statistics={statistics}
        frames={evs.map((ev) => ({
          name: shutter(time * 2 ** ev),
          ev,
          used: true,
          reference: ev === 0,
          shown: false,
        }))}
        onFrame={() => undefined}
      />
      <h2 className="mb-1 mt-4 font-semibold">Bracketing compared</h2>
      <table className="w-full text-right">
        <thead>
          <tr className="text-[12px] text-quiet">
            <th className="text-left font-normal">Exposures</th>
            <th className="font-normal">range, EV</th>
            <th className="font-normal">darks, dB</th>
            <th className="font-normal">lost, %</th>
          </tr>
        </thead>
        <tbody>
          {[
            ...BRACKETS.filter(([n, e]) => n !== s.frames || e !== s.step),
            [s.frames, s.step] as const,
          ]
            .sort((a, b) => a[0] - b[0] || a[1] - b[1])
            .map(([frames, step]) => {
              const c = expectBracket(statistics, { frames, step, iso: s.iso });
              const on = frames === s.frames && step === s.step;
              return (
                <tr
                  key={`${frames} ${step}`}
                  aria-current={on}
                  className={on ? "bg-raised" : "text-quiet hover:text-ink"}
                >
                  <td className="text-left">
                    <button
                      type="button"
                      className="h-6 w-full rounded text-left"
                      onClick={() => onChange({ ...s, frames, step })}
                    >
                      {frames === 1 ? "1 frame" : `${frames} × ${step} EV`}
                    </button>
                  </td>
                  <td>{plainNumber(c.rangeEv)}</td>
                  <td>{plainNumber(c.shadowDb, 0)}</td>
                  <td>{plainNumber(c.clipped * 100)}</td>
                </tr>
              );
            })}
        </tbody>
      </table>
    </>
  );
}

/** The travel of focus with what each frame shows sharp. */
function Zones({ stops, last, sharp }: { stops: readonly number[]; last: number; sharp: number }) {
  const at = (v: number): number => 4 + (Math.max(0, Math.min(last, v)) / last) * 192;
  return (
    <svg
      role="img"
      aria-label={`${stops.length} sharp zones from near to far`}
      viewBox="0 0 200 44"
      className="mt-3 w-full"
    >
      {stops.map((p, i) => (
        <rect
          key={p}
          x={at(p - sharp / 2)}
          width={Math.max(1, at(p + sharp / 2) - at(p - sharp / 2))}
          y={4 + (i % 2) * 9}
          height={7}
          rx={1}
          fill="var(--quiet)"
          opacity={0.7}
        />
      ))}
      <line x1={4} x2={196} y1={26} y2={26} stroke="var(--line)" />
      <text x={4} y={40} fill="var(--quiet)" fontSize={10}>
        near
      </text>
      <text x={196} y={40} textAnchor="end" fill="var(--quiet)" fontSize={10}>
        far
      </text>
    </svg>
  );
}
