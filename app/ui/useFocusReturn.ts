import { useRef } from "react";

/**
 * Where the focus goes when a menu or a list closes: who chose by key is back where it was opened;
 * who chose with the pointer goes on with the screen's own keys.
 */
export function useFocusReturn(): {
  onPointerMove: () => void;
  onKeyDown: () => void;
  onCloseAutoFocus: (event: Event) => void;
} {
  const byPointer = useRef(false);
  return {
    onPointerMove: () => {
      byPointer.current = true;
    },
    onKeyDown: () => {
      byPointer.current = false;
    },
    onCloseAutoFocus: (event) => {
      if (byPointer.current) event.preventDefault();
    },
  };
}
