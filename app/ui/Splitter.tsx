import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import { clamp } from "../../core/math/clamp";

/** An arrow key moves so far, px. */
const KEY_PX = 16;

/** The border of a column: dragged, moved by arrow keys, and double-clicked back to its usual place. */
export function Splitter({
  name,
  width,
  usual,
  least,
  most,
  onWidth,
  onKeep,
}: {
  name: string;
  /** of the column left of it, px */
  width: number;
  usual: number;
  least: number;
  most: number;
  onWidth: (px: number) => void;
  /** it has come to rest */
  onKeep: (px: number) => void;
}) {
  const drag = useRef<{ x: number; width: number }>(undefined);
  const put = (px: number): void => {
    const to = clamp(Math.round(px), least, most);
    onWidth(to);
    onKeep(to);
  };
  const moved = (e: PointerEvent): number =>
    clamp(Math.round(drag.current!.width + e.clientX - drag.current!.x), least, most);
  const onKeyDown = (e: KeyboardEvent): void => {
    const by = { ArrowLeft: -KEY_PX, ArrowRight: KEY_PX }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    e.stopPropagation();
    put(width + by);
  };
  return (
    <div
      role="separator"
      aria-orientation="vertical"
      aria-label={name}
      aria-valuenow={width}
      aria-valuemin={least}
      aria-valuemax={most}
      tabIndex={0}
      title={`${name}: drag it; double-click for ${usual} px`}
      className="absolute inset-y-0 -right-1 z-10 w-2 cursor-col-resize touch-none hover:bg-line"
      onDoubleClick={() => put(usual)}
      onKeyDown={onKeyDown}
      onPointerDown={(e) => {
        drag.current = { x: e.clientX, width };
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => drag.current && onWidth(moved(e))}
      onPointerUp={(e) => {
        if (drag.current) onKeep(moved(e));
        drag.current = undefined;
      }}
      onPointerCancel={() => {
        drag.current = undefined;
      }}
    />
  );
}
