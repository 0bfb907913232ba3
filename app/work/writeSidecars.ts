import { readNaming } from "../store/caption";
import type { Frame, Stack } from "../store/records";
import { sidecarsOf } from "../store/sidecars";
import { counted } from "../ui/format";
import { handOver, zipped } from "./handOver";
import { openFolder, replaceIn } from "./resultFolder";

/**
 * Writes ratings, labels, notes and names as XMP files: into the folder of the shoot's results, where
 * those that are there keep what other programs wrote; else as a zip. Called while a click or key is
 * handled.
 *
 * @returns what was done, in words
 * @throws RhizomeError `folder-closed`, `folder-unwritable`
 */
export async function writeSidecars(
  shoot: { id: string; name: string },
  frames: readonly Frame[],
  stacks: readonly Stack[],
): Promise<string> {
  const folder = await openFolder(shoot.id);
  const sidecars = sidecarsOf(frames, stacks, await readNaming());
  if (!sidecars.length) return "Nothing is said of any frame: rate, label or note stacks first";
  if (!folder) {
    const files = sidecars.map(({ frame, name, text }) => ({
      name: frame.info.folder ? `${frame.info.folder}/${name}` : name,
      content: new Blob([text()]),
    }));
    handOver({ name: `${shoot.name} XMP.zip`, content: await zipped(files) });
    return counted(files.length, "XMP file");
  }
  for (const { name, text } of sidecars) await replaceIn(folder, name, text);
  return `${counted(sidecars.length, "XMP file")} in ${folder.name}`;
}
