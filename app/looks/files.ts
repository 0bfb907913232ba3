import { RhizomeError } from "../../core/error";
import { safeName } from "../../pipeline/deliver/fileName";
import { handOver } from "../work/handOver";
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
  handOver({
    name: `${safeName(look.name)}${ENDING}`,
    content: new Blob([lookText(look)], { type: "application/json" }),
  });
}
