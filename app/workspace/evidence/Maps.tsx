import {
  DISAGREEMENT_TOP,
  INK,
  NOISE_DB,
  scaleColour,
  type MapKind,
} from "../../../core/maps/maps";
import { frameColours } from "../../work/frameColours";
import { type SessionState } from "../../work/sessionState";
import { plainNumber } from "../../ui/format";
import { Hint } from "../../ui/Button";

export const MAPS: readonly { kind: MapKind; key: string; text: string; hint: string }[] = [
  { kind: "sources", key: "S", text: "Sources", hint: "Which frame gave most to each pixel (S)" },
  { kind: "seams", key: "E", text: "Seams", hint: "Where one frame ends and the next begins (E)" },
  { kind: "moving", key: "V", text: "Moving", hint: "What was held back because it moved (V)" },
  {
    kind: "disagreement",
    key: "R",
    text: "Residual",
    hint: "How far the aligned frames disagree (R)",
  },
  { kind: "noise", key: "N", text: "Noise", hint: "Signal over noise of each pixel (N)" },
];
const css = (rgb: readonly number[]): string => `rgb(${rgb.join(" ")})`;
const SCALE = `linear-gradient(90deg, ${[0, 0.25, 0.5, 0.75, 1].map((t) => css(scaleColour(t))).join(", ")})`;
/** As the map is striped where a depth is not known. */
const STRIPES = `repeating-linear-gradient(135deg, ${css(INK)} 0 1.5px, ${css(scaleColour(0.5))} 1.5px 4.5px)`;

/** The maps that can be shown over the picture, and what the colours of the shown one mean. */
export function Maps({
  kinds,
  depth = false,
  shown,
  onShow,
  session: s,
  names,
}: {
  /** those that the stack has */
  kinds: readonly MapKind[];
  /** sources lie along a focus travel */
  depth?: boolean;
  shown: MapKind | undefined;
  onShow: (k: MapKind | undefined) => void;
  session: SessionState;
  names: readonly string[];
}) {
  const ready = s.phase === "ready" && (s.aligned || s.layout);
  const used =
    (s.aligned?.frames ?? s.layout?.cameras.map((c, i) => ({ ev: i, used: c !== undefined })))
      ?.map((f, i) => ({ ...f, i }))
      .filter((f) => f.used) ?? [];
  const colours = frameColours(used);
  return (
    <section aria-label="Maps" className="mt-4">
      <h2 className="mb-1 font-semibold">Maps</h2>
      <div className="grid grid-cols-2 gap-1">
        {MAPS.filter((m) => kinds.includes(m.kind)).map((m) => (
          <Hint key={m.kind} text={m.hint}>
            <button
              type="button"
              aria-pressed={shown === m.kind}
              disabled={!ready}
              onClick={() => onShow(shown === m.kind ? undefined : m.kind)}
              className={`flex h-6 items-center justify-between rounded border px-2 disabled:opacity-45 ${shown === m.kind ? "border-quiet bg-raised text-ink" : "border-line text-quiet hover:text-ink"}`}
            >
              {depth && m.kind === "sources" ? "Depth" : m.text}
              <kbd className="font-sans text-[12px] text-quiet">{m.key}</kbd>
            </button>
          </Hint>
        ))}
      </div>
      {shown === "sources" && depth && s.aligned?.order && (
        <>
          <Bar from={names[s.aligned.order[0]!] ?? ""} to={names[s.aligned.order.at(-1)!] ?? ""} />
          <p className="mt-1 flex items-center gap-2 text-[12px] text-quiet">
            <span aria-hidden className="size-3 rounded-sm" style={{ background: STRIPES }} />
            Striped: a guess, little texture
          </p>
        </>
      )}
      {shown === "sources" && !depth && (
        <ul className="mt-2 text-[12px]">
          {[...used]
            .map((f, k) => ({ f, k }))
            .sort((a, b) => a.f.ev - b.f.ev)
            .map(({ f, k }) => (
              <li key={f.i} className="grid grid-cols-[12px_1fr_auto] items-center gap-2">
                <span
                  aria-hidden
                  className="size-3 rounded-sm"
                  style={{ background: css(colours[k]!) }}
                />
                <span className="truncate">{names[f.i]}</span>
                <span>{plainNumber((s.shares?.[f.i] ?? 0) * 100)} %</span>
              </li>
            ))}
        </ul>
      )}
      {shown === "disagreement" && <Bar from="0" to={`${DISAGREEMENT_TOP} × noise`} />}
      {shown === "noise" && <Bar from={`${NOISE_DB[0]} dB`} to={`${NOISE_DB[1]} dB`} />}
      {shown === "moving" && (
        <p className="mt-2 text-[12px] text-quiet">
          Stripes: only the reference frame, or the frame of a ghost patch, was used there.
        </p>
      )}
    </section>
  );
}

function Bar({ from, to }: { from: string; to: string }) {
  return (
    <div className="mt-2 text-[12px] text-quiet">
      <div aria-hidden className="h-2 rounded-sm" style={{ background: SCALE }} />
      <div className="flex justify-between">
        <span>{from}</span>
        <span>{to}</span>
      </div>
    </div>
  );
}
