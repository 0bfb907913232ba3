import { MouseSensor, TouchSensor, useSensor, useSensors } from "@dnd-kit/core";

/** A drag begins after so many px, or after a finger has rested so long, ms. */
const DRAG_PX = 6;
const TOUCH_MS = 250;

/** How a drag begins: clicks and scrolling by touch stay what they are. */
export const useDragSensors = () =>
  useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: DRAG_PX } }),
    useSensor(TouchSensor, { activationConstraint: { delay: TOUCH_MS, tolerance: DRAG_PX } }),
  );
