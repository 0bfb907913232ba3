import { useRevalidator } from "react-router";
import { openFolders, type ClosedFolder } from "../store/linkedFolders";
import { Button } from "../ui/Button";

/** Says that frames lie in folders that may not be read now, and asks for them. */
export function ClosedFolders({ folders }: { folders: readonly ClosedFolder[] }) {
  const { revalidate } = useRevalidator();
  if (!folders.length) return null;
  const names = folders.map(({ name }) => name).join(", ");
  const open = async (): Promise<void> => {
    await openFolders(folders.map(({ id }) => id));
    await revalidate();
  };
  return (
    <div
      role="region"
      aria-label="Folders of frames"
      className="flex items-center gap-3 border-b border-line bg-panel px-4 py-2"
    >
      <p className="grow">
        Frames lie on your disk, in {names}. The browser asks anew whether they may be read.
      </p>
      <Button variant="accent" onClick={() => void open()}>
        Allow reading
      </Button>
    </div>
  );
}
