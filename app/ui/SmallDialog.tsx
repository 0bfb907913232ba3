import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

/** A few questions over the screen; Escape and a click beside it close it. */
export function SmallDialog({
  title,
  open,
  onClose,
  width,
  children,
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  /** px */
  width: number;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(to) => !to && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ground/70" />
        <Dialog.Content
          aria-describedby={undefined}
          style={{ width }}
          className="fixed left-1/2 top-1/4 z-50 max-w-full -translate-x-1/2 rounded border border-line bg-panel p-4 shadow-lg"
        >
          <Dialog.Title className="mb-3 font-semibold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
