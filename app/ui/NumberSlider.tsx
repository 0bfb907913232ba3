import { useEffect, useRef, useState } from "react";
import { Slider } from "radix-ui";
import { Hint } from "./Button";
import { useKeepSoon } from "./useKeepSoon";
import { clamp } from "../../core/math/clamp";

interface Props {
  label: string;
  /** where the label alone would not tell which one it is */
  name?: string;
  hint: string;
  value: number;
  min: number;
  max: number;
  step: number;
  reset: number;
  unit: string;
  shown?: (v: number) => string;
  parse?: (n: number) => number;
  onChange: (v: number) => void;
  onCommit: (v: number) => void;
}

const minus = (t: string): string => t.replace("-", "\u2212");

/** A value with its unit: drag, wheel, arrow keys, typing; double-click brings the default back. */
export function NumberSlider({
  label,
  name = label,
  hint,
  value,
  min,
  max,
  step,
  reset,
  unit,
  shown = (v) => String(v),
  parse = (n) => n,
  onChange,
  onCommit,
}: Props) {
  const [typed, setTyped] = useState<string>();
  const root = useRef<HTMLDivElement>(null);
  const latest = useRef({ value, onChange });
  useEffect(() => {
    latest.current = { value, onChange };
  });
  const { soon: keepSoon, now: keepNow, drop } = useKeepSoon(onCommit);
  useEffect(() => {
    const el = root.current!;
    const turn = (e: WheelEvent): void => {
      e.preventDefault();
      const { value: was, onChange: changed } = latest.current;
      const next = clamp(Math.round((was + (e.deltaY < 0 ? step : -step)) / step) * step, min, max);
      changed(next);
      keepSoon(next);
    };
    el.addEventListener("wheel", turn, { passive: false });
    return () => el.removeEventListener("wheel", turn);
  }, [min, max, step, keepSoon]);
  const put = (v: number): void => {
    drop();
    const n = Math.min(max, Math.max(min, v));
    onChange(n);
    onCommit(n);
  };
  const left = useRef(false);
  const finish = (): void => {
    setTyped(undefined);
    if (left.current || typed === undefined) {
      left.current = false;
      return;
    }
    const n = Number(
      typed
        .replace("\u2212", "-")
        .replace(",", ".")
        .replace(/[^\d.+-]/g, ""),
    );
    if (typed.trim() !== "" && Number.isFinite(n)) put(parse(n));
  };
  return (
    <div
      ref={root}
      className="grid h-7 grid-cols-[84px_1fr_84px] items-center gap-2"
      onDoubleClick={() => put(reset)}
    >
      <Hint text={`${hint} Double-click for ${minus(shown(reset))}${unit ? ` ${unit}` : ""}.`}>
        <span className="truncate text-quiet">{label}</span>
      </Hint>
      <Slider.Root
        className="relative flex h-6 touch-none items-center"
        value={[value]}
        min={min}
        max={max}
        step={step}
        onValueChange={([v]) => onChange(v!)}
        onValueCommit={([v]) => keepSoon(v!)}
        onPointerUp={() => queueMicrotask(keepNow)}
        onBlur={keepNow}
      >
        <Slider.Track className="relative h-0.5 grow rounded bg-line">
          <Slider.Range className="absolute h-full rounded bg-quiet" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={name}
          aria-valuetext={`${shown(value)} ${unit}`}
          className="block size-3 rounded-full bg-ink hover:scale-125"
        />
      </Slider.Root>
      <label className="flex items-center justify-end gap-1">
        <input
          aria-label={`${name}, ${unit || "value"}`}
          className="h-6 w-14 rounded border border-transparent bg-transparent text-right tabular-nums hover:border-line focus:border-line"
          value={typed ?? minus(shown(value))}
          onFocus={(e) => {
            setTyped(minus(shown(value)));
            e.target.select();
          }}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={finish}
          onKeyDown={(e) => {
            if (e.key === "Enter") e.currentTarget.blur();
            if (e.key === "Escape") {
              left.current = true;
              e.currentTarget.blur();
            }
            e.stopPropagation();
          }}
        />
        <span className="w-5 text-[12px] text-quiet">{unit}</span>
      </label>
    </div>
  );
}
