import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { clamp } from "../../core/math/clamp";
import { useKeepSoon } from "./useKeepSoon";

interface Props {
  label: string;
  /** where the label alone would not tell which one it is */
  name?: string;
  /** what it does, in one line; shown on hover and focus */
  hint: string;
  value: number;
  min: number;
  max: number;
  step: number;
  /** where it rests: the row is filled from there, and a double-click goes back to it */
  reset: number;
  unit: string;
  /** how a value is written, and how what was typed is read */
  shown?: (v: number) => string;
  parse?: (n: number) => number;
  /** it moves */
  onChange: (v: number) => void;
  /** it has come to rest */
  onCommit: (v: number) => void;
  /** a drag of it begins or ends */
  onDrag?: ((isDragging: boolean) => void) | undefined;
}

/** A drag with Shift held is so many times finer. */
const FINER = 10;
/** PageUp and PageDown go so many steps. */
const PAGE_STEPS = 10;
/** A turn of the wheel that began as scrolling goes on as scrolling until it pauses so long, ms. */
const SCROLLING_MS = 400;
/** A press that moves less than this is no drag, px. */
const SLACK_PX = 2;

let scrolledAt = -Infinity;
if (typeof window !== "undefined")
  window.addEventListener("scroll", () => (scrolledAt = performance.now()), true);

const minus = (text: string): string => text.replace("-", "\u2212");
/** A number as it is typed, in any of the usual ways; undefined if it is none. */
function typedNumber(text: string): number | undefined {
  const plain = text
    .replace("\u2212", "-")
    .replace(",", ".")
    .replace(/[^\d.+-]/g, "");
  const n = Number(plain);
  return plain !== "" && Number.isFinite(n) ? n : undefined;
}

/**
 * A value with its label and unit as one row: drag anywhere on it, wheel, arrow keys, typing;
 * double-click goes back to rest. What is at rest is quiet, what is set is bright.
 */
export function NumberSlider(props: Props) {
  const { label, name = label, hint, value, min, max, step, reset, unit } = props;
  const { shown = (v) => String(v) } = props;
  const row = useRef<HTMLDivElement>(null);
  const { put, ...handlers } = useSlide(row, props);
  const share = (v: number): number => clamp((v - min) / (max - min), 0, 1) * 100;
  const isSet = Math.abs(value - reset) > step / 2;
  const [from, to] = [share(reset), share(value)].sort((a, b) => a - b);
  const rest = `${minus(shown(reset))}${unit ? ` ${unit}` : ""}`;
  return (
    <div
      ref={row}
      title={`${hint} Double-click for ${rest}.`}
      className={`group relative my-px flex h-7 touch-pan-y select-none items-center rounded-sm bg-track pointer-coarse:h-10 ${isSet ? "text-ink" : "text-quiet"}`}
      onDoubleClick={() => put(reset)}
      {...handlers.pointer}
    >
      <span
        aria-hidden
        className="absolute inset-y-0 bg-fill"
        style={{ left: `${from}%`, width: `${to! - from!}%` }}
      />
      <span
        aria-hidden
        className="absolute bottom-0 h-1 w-px bg-line"
        style={{ left: `${share(reset)}%` }}
      />
      <span
        role="slider"
        tabIndex={0}
        aria-label={name}
        aria-description={hint}
        aria-orientation="horizontal"
        aria-valuemin={min}
        aria-valuemax={max}
        aria-valuenow={value}
        aria-valuetext={`${shown(value)} ${unit}`.trim()}
        className={`absolute inset-y-0.5 w-0.5 -translate-x-px rounded-full outline-offset-2 group-hover:bg-ink ${isSet ? "bg-ink" : "bg-quiet"}`}
        style={{ left: `clamp(1px, ${share(value)}%, 100% - 1px)` }}
        onKeyDown={handlers.onKeyDown}
        onBlur={handlers.onBlur}
      />
      <span className="pointer-events-none relative grow cursor-ew-resize truncate pl-2.5 pr-1">
        {label}
      </span>
      <TypedValue
        name={`${name}, ${unit || "value"}`}
        text={minus(shown(value))}
        {...props}
        onTyped={put}
      />
      <span className="pointer-events-none relative w-7 shrink-0 pl-1 text-[12px] text-quiet">
        {unit}
      </span>
    </div>
  );
}

/** The number of a row, to be typed over. */
function TypedValue({
  name,
  text,
  parse = (n) => n,
  onTyped,
}: {
  name: string;
  text: string;
  parse?: (n: number) => number;
  onTyped: (v: number) => void;
}) {
  const [typed, setTyped] = useState<string>();
  const isLeft = useRef(false);
  const finish = (): void => {
    const n = typed === undefined || isLeft.current ? undefined : typedNumber(typed);
    isLeft.current = false;
    setTyped(undefined);
    if (n !== undefined) onTyped(parse(n));
  };
  return (
    <input
      aria-label={name}
      inputMode="decimal"
      className="relative h-6 w-16 shrink-0 rounded border border-transparent bg-transparent text-right tabular-nums hover:border-line focus:border-line"
      value={typed ?? text}
      onPointerDown={(e) => e.stopPropagation()}
      onDoubleClick={(e) => e.stopPropagation()}
      onFocus={(e) => {
        setTyped(text);
        e.target.select();
      }}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={finish}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") {
          isLeft.current = true;
          e.currentTarget.blur();
        }
        e.stopPropagation();
      }}
    />
  );
}

/** How a row is moved by pointer, wheel and keys; a run of presses or turns is one change. */
function useSlide(
  row: React.RefObject<HTMLDivElement | null>,
  { value, min, max, step, onChange, onCommit, onDrag }: Props,
) {
  const latest = useRef({ value, onChange });
  useEffect(() => {
    latest.current = { value, onChange };
  });
  const { soon: keepSoon, now: keepNow, drop, due } = useKeepSoon(onCommit);
  const drag = useRef<{ x: number; exact: number; from: number; moved: boolean }>(undefined);
  /** On the grid of steps, counted from nothing. */
  const onGrid = (v: number): number =>
    clamp(Number((Math.round(v / step) * step).toFixed(10)), min, max);
  const current = (): number => due() ?? latest.current.value;
  const move = (v: number): void => {
    const next = onGrid(v);
    if (next === current()) return;
    latest.current.onChange(next);
    keepSoon(next);
  };
  const put = (v: number): void => {
    drop();
    const n = clamp(v, min, max);
    onChange(n);
    onCommit(n);
  };
  const moving = useRef(move);
  useEffect(() => {
    moving.current = move;
  });
  useEffect(() => {
    const element = row.current!;
    const turn = (e: WheelEvent): void => {
      if (performance.now() - scrolledAt < SCROLLING_MS) return;
      e.preventDefault();
      moving.current((due() ?? latest.current.value) + (e.deltaY < 0 ? step : -step));
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [row, step, due]);

  const steps: Record<string, number> = {
    ArrowRight: step,
    ArrowUp: step,
    ArrowLeft: -step,
    ArrowDown: -step,
    PageUp: step * PAGE_STEPS,
    PageDown: -step * PAGE_STEPS,
    Home: min - max,
    End: max - min,
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const by = steps[e.key];
    if (by === undefined || e.altKey || e.ctrlKey || e.metaKey) return;
    e.preventDefault();
    move(current() + by);
  };
  const follow = (e: PointerEvent): void => {
    const now = drag.current;
    if (!now) return;
    const dx = e.clientX - now.x;
    if (!now.moved && Math.abs(dx) < SLACK_PX) return;
    now.moved = true;
    now.x = e.clientX;
    const perPx = (max - min) / row.current!.clientWidth / (e.shiftKey ? FINER : 1);
    now.exact = clamp(now.exact + dx * perPx, min, max);
    move(now.exact);
  };
  const pointer = {
    onPointerDown: (e: PointerEvent): void => {
      if (e.button !== 0) return;
      const from = current();
      drag.current = { x: e.clientX, exact: from, from, moved: false };
      e.currentTarget.setPointerCapture(e.pointerId);
      onDrag?.(true);
      row.current!.querySelector<HTMLElement>("[role=slider]")!.focus({ preventScroll: true });
    },
    onPointerMove: follow,
    onPointerUp: (): void => {
      if (drag.current) onDrag?.(false);
      drag.current = undefined;
      keepNow();
    },
    // taken over by a scroll: nothing was meant
    onPointerCancel: (): void => {
      const now = drag.current;
      if (now) onDrag?.(false);
      drag.current = undefined;
      if (now?.moved) put(now.from);
    },
  };
  return { put, onKeyDown, onBlur: keepNow, pointer };
}
