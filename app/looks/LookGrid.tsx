import { useEffect, useRef } from "react";
import { applyLook } from "../../pipeline/looks/applyLook";
import { MOST_AMOUNT, type Look } from "../../pipeline/looks/look";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { StackSession } from "../work/session";
import type { View } from "../work/sessionState";
import { pictureNumbers, type PictureNumbers } from "../../core/tone/pictureNumbers";

/** A look as it is tried; without one the picture is as it is. */
export interface TriedLook {
  id: string;
  name: string;
  look?: Look;
  amount: number;
}

/** Looks that are seen at once. */
export const CELLS = 6;
/** A drag shorter than this is a click, px. */
const CLICK_PX = 4;

interface Props {
  session: StackSession;
  recipe: Recipe;
  /** those of the page that is seen */
  tried: readonly TriedLook[];
  chosen: string;
  /** changes when something else would be rendered */
  ready: string;
  onChoose: (id: string) => void;
  onAmount: (id: string, amount: number) => void;
  onApply: (id: string) => void;
  onNumbers: (id: string, numbers: PictureNumbers) => void;
}

/** A picture under several looks at once; a drag across one changes how far it goes. */
export function LookGrid(props: Props) {
  const { tried, chosen, onChoose, onAmount, onApply } = props;
  const canvases = useRef(new Map<string, HTMLCanvasElement>());
  useCells(props, canvases.current);
  return (
    <div
      role="listbox"
      aria-label="Looks tried"
      className="grid h-full grid-cols-2 grid-rows-3 gap-2.5 p-3"
    >
      {tried.map(({ id, name, look, amount }) => (
        <Cell
          key={id}
          name={name}
          amount={look && amount}
          isChosen={id === chosen}
          onCanvas={(canvas) => {
            if (canvas) canvases.current.set(id, canvas);
            else canvases.current.delete(id);
          }}
          onChoose={() => onChoose(id)}
          onAmount={(to) => onAmount(id, to)}
          onApply={() => onApply(id)}
        />
      ))}
    </div>
  );
}

interface CellProps {
  name: string;
  /** how far it goes; undefined for the picture as it is */
  amount: number | undefined;
  isChosen: boolean;
  onCanvas: (canvas: HTMLCanvasElement | null) => void;
  onChoose: () => void;
  onAmount: (amount: number) => void;
  onApply: () => void;
}

function Cell({ name, amount, isChosen, onCanvas, onChoose, onAmount, onApply }: CellProps) {
  const drag = useRef<{ x: number; from: number; moved: boolean }>(undefined);
  const onPointerMove = (e: React.PointerEvent<HTMLDivElement>): void => {
    const now = drag.current;
    if (!now || amount === undefined) return;
    const by = e.clientX - now.x;
    now.moved ||= Math.abs(by) > CLICK_PX;
    if (!now.moved) return;
    const width = e.currentTarget.clientWidth;
    const to = Math.min(MOST_AMOUNT, Math.max(0, now.from + (by / width) * MOST_AMOUNT));
    onAmount(Math.round(to * 100) / 100);
  };
  return (
    <div
      role="option"
      aria-selected={isChosen}
      aria-label={name}
      className="relative min-h-0 min-w-0 cursor-ew-resize touch-none overflow-hidden bg-panel"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        drag.current = { x: e.clientX, from: amount ?? 0, moved: false };
        onChoose();
      }}
      onPointerMove={onPointerMove}
      onPointerUp={() => {
        drag.current = undefined;
      }}
      onPointerCancel={() => {
        drag.current = undefined;
      }}
      onDoubleClick={onApply}
    >
      <canvas ref={onCanvas} className="absolute inset-0 m-auto max-h-full max-w-full" />
      <p
        className={`absolute inset-x-0 bottom-0 flex items-center gap-2 border-l-[3px] px-2 py-1 ${isChosen ? "border-accent bg-raised/90" : "border-transparent bg-panel/80"}`}
      >
        <span className="grow truncate">{name}</span>
        {amount !== undefined && (
          <span className="tabular-nums">
            {Math.round(amount * 100)}
            {"\u00a0"}%
          </span>
        )}
      </p>
    </div>
  );
}

/** Renders the cells one after the other, the chosen one first; what is asked for later goes first. */
function useCells(props: Props, canvases: ReadonlyMap<string, HTMLCanvasElement>): void {
  const { session, recipe, tried, ready } = props;
  const latest = useRef(props);
  useEffect(() => {
    latest.current = props;
  });
  const drawn = useRef(new Map<string, string>());
  const key = JSON.stringify(tried.map(({ id, amount }) => [id, amount]));
  useEffect(() => {
    let isCurrent = true;
    void (async () => {
      const { tried: all, chosen } = latest.current;
      const ordered = [...all].sort((a, b) => Number(b.id === chosen) - Number(a.id === chosen));
      for (const cell of ordered) {
        const canvas = canvases.get(cell.id);
        if (!isCurrent) return;
        const is = JSON.stringify([cell.amount, ready, recipe]);
        if (!canvas || (drawn.current.get(cell.id) === is && canvas.dataset["drawn"])) continue;
        const view = await render(session, recipe, cell, canvas);
        if (!view || !isCurrent) continue;
        show(view, canvas);
        drawn.current.set(cell.id, is);
        latest.current.onNumbers(cell.id, pictureNumbers(view.pixels));
      }
    })().catch(() => undefined);
    return () => {
      isCurrent = false;
    };
  }, [session, recipe, key, ready, canvases]);
}

function render(
  session: StackSession,
  recipe: Recipe,
  { look, amount }: TriedLook,
  canvas: HTMLCanvasElement,
): Promise<View | undefined> {
  const { size } = session.state;
  const region = session.keptOf(recipe.edges)?.region ?? { x: 0, y: 0, ...size };
  const { clientWidth, clientHeight } = canvas.parentElement!;
  const zoom = Math.min(clientWidth / region.width, clientHeight / region.height, 1);
  return session.view({
    region,
    zoom: zoom * Math.min(2, window.devicePixelRatio),
    recipe: look ? applyLook(recipe, look, amount) : recipe,
    clipped: false,
  });
}

function show({ pixels, width, height }: View, canvas: HTMLCanvasElement): void {
  canvas.width = width;
  canvas.height = height;
  canvas
    .getContext("2d", { alpha: false })!
    .putImageData(new ImageData(pixels, width, height), 0, 0);
  canvas.dataset["drawn"] = String(Number(canvas.dataset["drawn"] ?? 0) + 1);
}
