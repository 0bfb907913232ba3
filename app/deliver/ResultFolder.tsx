import { useEffect, useState } from "react";
import { RhizomeError } from "../../core/error";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { chooseFolder, folderOf, forgetFolder, writesIntoFolders } from "../work/resultFolder";

/** Where the shoot's results go: into a folder that was chosen once, or to the downloads. */
export function ResultFolder({
  shoot,
  onProblem,
}: {
  /** its id */
  shoot: string;
  onProblem: (problem: string) => void;
}) {
  const [name, setName] = useState<string>();
  useEffect(() => {
    let live = true;
    void folderOf(shoot).then((folder) => live && setName(folder?.name));
    return () => {
      live = false;
    };
  }, [shoot]);
  const choose = (): void =>
    void chooseFolder(shoot).then(
      (folder) => folder && setName(folder.name),
      (e: unknown) => onProblem(RhizomeError.from(e).message),
    );
  const forget = (): void => void forgetFolder(shoot).then(() => setName(undefined));
  if (!writesIntoFolders()) return null;
  return (
    <div role="group" aria-label="Where results go">
      <Choice
        label="Results go"
        hint="Into a folder files are written as they are made, and none that is there is replaced."
        value={name === undefined ? "downloads" : "folder"}
        options={[
          { value: "downloads", text: "Downloads" },
          { value: "folder", text: "Folder" },
        ]}
        onChange={(to) => (to === "folder" ? choose() : forget())}
      />
      {name !== undefined && (
        <div className="flex items-center gap-1 pl-2.5 text-[12px]">
          <span className="min-w-0 grow truncate text-quiet" title={name}>
            {name}
          </span>
          <Button variant="plain" className="h-6 px-2" hint="Another folder" onClick={choose}>
            Change
          </Button>
        </div>
      )}
    </div>
  );
}
