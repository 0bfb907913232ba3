import { shownAgain } from "../../../pipeline/align/step";
import { plainNumber } from "../../ui/format";
import type { SessionState } from "../../work/sessionState";

interface Props {
  session: SessionState;
  names: readonly string[];
  shown: number | undefined;
  onShow: (i: number | undefined) => void;
}

/**
 * The ladder of a focus stack: a ramp of its frames along the focus travel, each bar as long as the
 * share of the picture it gave.
 */
export function FocusRamp({ session: s, names, shown, onShow }: Props) {
  const order = s.aligned?.order ?? s.aligned?.frames.map((_, i) => i);
  if (!order) return <div className="grid h-24 place-items-center text-quiet">After the merge</div>;
  const gaps = new Set(s.aligned?.gaps);
  const again = shownAgain(s.aligned);
  const most = Math.max(0.01, ...(s.shares ?? []));
  return (
    <ol aria-label="Focus travel" className="max-h-60 overflow-auto text-[12px]">
      {order.map((i, k) => {
        const f = s.aligned!.frames[i]!;
        const share = s.shares?.[i] ?? 0;
        const used = f.used ? `${plainNumber(share * 100)} %` : "left out";
        return (
          <li key={i}>
            <button
              type="button"
              aria-pressed={shown === i}
              onClick={() => onShow(i)}
              title={`Look at ${names[i]}`}
              className={`grid w-full grid-cols-[68px_1fr_44px] items-center gap-2 rounded px-1 text-left ${shown === i ? "bg-raised" : "hover:bg-raised"}`}
            >
              <span className="truncate">{names[i]}</span>
              <span aria-hidden className="relative h-2">
                <span
                  className="absolute h-2 rounded-sm"
                  style={{
                    left: `${(k / order.length) * 30}%`,
                    width: `${2 + (share / most) * 66}%`,
                    background: shown === i ? "var(--accent)" : "var(--quiet)",
                    opacity: f.used ? 1 : 0.3,
                  }}
                />
              </span>
              <span className="text-right" title={f.used ? undefined : f.warning}>
                {again.has(i) ? "again" : used}
              </span>
            </button>
            {gaps.has(k) && (
              <p className="flex items-center gap-2 px-1 text-accent">
                <span aria-hidden className="h-px grow border-t border-dashed border-accent" />
                step too wide
                <span aria-hidden className="h-px grow border-t border-dashed border-accent" />
              </p>
            )}
          </li>
        );
      })}
    </ol>
  );
}
