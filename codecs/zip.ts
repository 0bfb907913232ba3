import { unzipSync } from "fflate";
import { isPictureName } from "./inputFormats";
import { damaged } from "./limits";

/** At most this much is unpacked, so that no small file fills the memory. */
const MAX_ZIP_BYTES = 4 * 2 ** 30;

/** The pictures in a zip, by their names without folders. @throws RhizomeError `damaged` */
export function readZip(
  bytes: Uint8Array,
  name: string,
): { name: string; bytes: Uint8Array<ArrayBuffer> }[] {
  let total = 0;
  try {
    const files = unzipSync(bytes, {
      filter: (f) =>
        isPictureName(f.name) &&
        !/(^|\/)(\.|__MACOSX\/)/.test(f.name) &&
        (total += f.originalSize) < MAX_ZIP_BYTES,
    });
    return Object.entries(files).map(([path, content]) => ({
      name: path.split(/[\\/]/).at(-1)!,
      bytes: content,
    }));
  } catch (e) {
    throw damaged(name, e);
  }
}
