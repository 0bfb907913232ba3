import type { ShelfEntry } from "../store/shelf";
import { bytesText } from "../ui/bytesText";
import { ConfirmDialog } from "../ui/ConfirmDialog";
import { counted } from "../ui/format";

/** Asks before a shoot is deleted. */
export function DeleteDialog({
  entry: { shoot, frames, bytes },
  onClose,
  onDelete,
}: {
  entry: ShelfEntry;
  onClose: () => void;
  onDelete: () => void;
}) {
  return (
    <ConfirmDialog
      title={`Delete “${shoot.name}” from this browser?`}
      description={`${counted(frames, "frame")} (${bytesText(bytes)}) and their recipes go. Files on your disk are not touched. This cannot be undone.`}
      confirm="Delete"
      onClose={onClose}
      onConfirm={onDelete}
    />
  );
}
