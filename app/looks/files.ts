import { RhizomeError } from "../../core/error";
import { lookText, readLook, type Look } from "../../pipeline/looks/look";

/** What files of looks end in. */
const ENDING = ".look.json";

/** Looks of files that were chosen or dropped, and why others are none. */
export async function looksOf(
  files: readonly File[],
): Promise<{ looks: Look[]; failed: RhizomeError[] }> {
  const looks: Look[] = [];
  const failed: RhizomeError[] = [];
  for (const file of files) {
    // a folder holds other things as well
    if (!/\.json$/i.test(file.name)) continue;
    try {
      looks.push(readLook(await file.text(), file.name));
    } catch (e) {
      failed.push(RhizomeError.from(e));
    }
  }
  return { looks, failed };
}

/** Hands a look to the browser as a file. */
export function handOut(look: Look): void {
  const url = URL.createObjectURL(new Blob([lookText(look)], { type: "application/json" }));
  const a = document.createElement("a");
  a.href = url;
  a.download = `${look.name.replace(/[^\p{L}\p{N} ._-]+/gu, "_")}${ENDING}`;
  a.click();
  setTimeout(() => URL.revokeObjectURL(url), 60000);
}
