import { useRef } from "react";
import { Button } from "./Button";

interface Way {
  text: string;
  hint: string;
  /** what its field is called */
  name: string;
}

/** Two ways of choosing: files, or a folder with all below it. */
export function FileButtons({
  files,
  folder,
  accept,
  isBusy = false,
  onFiles,
}: {
  files: Way;
  folder: Way;
  /** kinds of files that are offered */
  accept?: string;
  isBusy?: boolean;
  onFiles: (files: File[]) => void;
}) {
  const filesField = useRef<HTMLInputElement>(null);
  const folderField = useRef<HTMLInputElement>(null);
  const taken = (input: HTMLInputElement): void => {
    onFiles([...(input.files ?? [])]);
    input.value = "";
  };
  return (
    <>
      <Button disabled={isBusy} onClick={() => filesField.current!.click()} hint={files.hint}>
        {files.text}
      </Button>
      <Button
        className="max-lg:hidden"
        disabled={isBusy}
        onClick={() => folderField.current!.click()}
        hint={folder.hint}
      >
        {folder.text}
      </Button>
      <input
        ref={filesField}
        type="file"
        multiple
        {...(accept ? { accept } : {})}
        aria-label={files.name}
        className="hidden"
        onChange={(e) => taken(e.target)}
      />
      <input
        ref={folderField}
        type="file"
        multiple
        aria-label={folder.name}
        className="hidden"
        {...{ webkitdirectory: "" }}
        onChange={(e) => taken(e.target)}
      />
    </>
  );
}
