import { useDndContext, useDraggable, useDroppable } from "@dnd-kit/core";
import { memo, type MouseEvent } from "react";
import type { Frame } from "../store/records";
import { Picture } from "../ui/Picture";

/** Keys held while something is clicked. */
export type Click = Pick<MouseEvent, "shiftKey" | "ctrlKey" | "metaKey">;

interface Props {
  frame: Frame;
  /** its place in its stack */
  index: number;
  blob: Blob | undefined;
  /** where it stands on the ladder of its stack's kind, px below the middle */
  rise: number;
  overlaps: boolean;
  isNarrow: boolean;
  /** width and height, px */
  size: readonly [number, number];
  caption: string;
  isLeftOut: boolean;
  isReference: boolean;
  /** the keys act on it */
  isCursor: boolean;
  isPicked: boolean;
  onClick: (index: number, click: Click) => void;
  onOpen: (index: number) => void;
}

const PLACE = (id: string): string => `place ${id}`;

/** One frame in its stack's row: dragged to another place, and one before which others are dropped. */
export const FrameThumb = memo(function FrameThumb(props: Props) {
  const { frame, index, blob, rise, overlaps, isNarrow, size, caption } = props;
  const { isLeftOut, isReference, isCursor, isPicked, onClick, onOpen } = props;
  const { active, over } = useDndContext();
  const drag = useDraggable({ id: `frame ${frame.id}`, data: { frame: frame.id } });
  const isOver = over?.id === PLACE(frame.id);
  const [width, height] = size;
  const isUpright = frame.info.height > frame.info.width || isNarrow;
  const inSet = isReference ? `${caption}, ref` : caption;
  let outline = "";
  if (isCursor) outline = "outline-2 outline-accent";
  else if (isPicked) outline = "outline-2 outline-ink";
  else if (isOver) outline = "outline-2 outline-dashed outline-accent";
  const t = drag.transform;
  const notes = `${isLeftOut ? ", left out of the merge" : ""}${isReference ? ", reference" : ""}`;
  return (
    <div
      ref={drag.setNodeRef}
      {...drag.listeners}
      role="gridcell"
      tabIndex={isCursor ? 0 : -1}
      aria-label={`${isLeftOut ? "out" : inSet} ${frame.info.name}${notes}`}
      aria-selected={isPicked}
      data-frame={frame.info.name}
      data-cursor={isCursor || undefined}
      data-over={isOver || undefined}
      onClick={(e) => {
        e.stopPropagation();
        onClick(index, e);
      }}
      onDoubleClick={() => onOpen(index)}
      title={`${frame.info.name}${notes}`}
      className={`relative shrink-0 cursor-default touch-manipulation outline-none ${overlaps ? "-ml-4" : ""} ${drag.isDragging ? "z-20" : ""}`}
      style={{ top: rise, transform: t ? `translate(${t.x}px, ${t.y}px)` : undefined }}
    >
      {active && <DropPlace frame={frame.id} />}
      <Picture
        blob={blob}
        alt=""
        className={`rounded-sm object-cover ${isLeftOut ? "opacity-30" : ""} ${outline}`}
        style={{ height, width: isUpright ? height * 0.75 : width }}
      />
      <p
        className={`text-center text-[12px] leading-4 ${isReference ? "font-semibold text-ink" : "text-quiet"}`}
      >
        {isLeftOut ? "out" : inSet}
      </p>
    </div>
  );
});

/** Frames are dropped before this one; there only while something is dragged. */
function DropPlace({ frame }: { frame: string }) {
  const { setNodeRef } = useDroppable({ id: PLACE(frame), data: { before: frame } });
  return <span ref={setNodeRef} aria-hidden className="absolute inset-0" />;
}
