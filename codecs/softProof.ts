import { RhizomeError } from "../core/error";
import { EXCESS_SCALE, SOFT_PROOF_SIDE, type SoftProofTable } from "../core/output/softProof";
import type { SpaceId } from "../core/colour/spaces";
import { readProfileHead, writeProfile } from "./icc";
import type { Engine, Picture } from "./vipsMetadata";

/** How colours that a paper cannot show are brought into what it can (ICC.1:2022, 6.2). */
export const SOFT_PROOF_INTENTS = ["relative", "perceptual"] as const;
export type SoftProofIntent = (typeof SOFT_PROOF_INTENTS)[number];

/** Codes that a printer or another device may take. */
const SPACES_READ = ["RGB ", "CMYK", "GRAY"];
/** Links between devices, named colours and the like show nothing of a device by itself. */
const DEVICES_READ = ["prtr", "mntr", "scnr", "spac"];

/**
 * What a profile is called.
 *
 * @param name  of its file
 * @throws RhizomeError `not-a-profile` where nothing can be proofed by it
 */
export function printerProfileName(bytes: Uint8Array, name: string): string {
  const head = readProfileHead(bytes);
  if (!head)
    throw new RhizomeError(
      "not-a-profile",
      `${name} is not a colour profile.`,
      "choose the ICC profile (.icc, .icm) that the printer's or the paper's maker gives out",
    );
  const isPrinting = SPACES_READ.includes(head.space) && DEVICES_READ.includes(head.device);
  // colours go into the device by a table, or by a matrix that can be turned round
  const goesIn = head.tags.has("B2A0") || head.tags.has("rXYZ") || head.tags.has("kTRC");
  if (!isPrinting || !goesIn)
    throw new RhizomeError(
      "not-a-profile",
      `${name} is a colour profile, but not of a printer or a paper.`,
      "choose the profile of the paper that it is printed on",
    );
  return head.name.replace(/\0/g, "").trim() || name;
}

/** Codes of every node of a proof's cube, red slowest, 16 bits. */
function nodes(): Uint16Array {
  const code = (i: number): number => Math.round((i / (SOFT_PROOF_SIDE - 1)) * 65535);
  const codes = new Uint16Array(SOFT_PROOF_SIDE ** 3 * 3);
  let at = 0;
  for (let r = 0; r < SOFT_PROOF_SIDE; r++)
    for (let g = 0; g < SOFT_PROOF_SIDE; g++)
      for (let b = 0; b < SOFT_PROOF_SIDE; b++) {
        codes[at++] = code(r);
        codes[at++] = code(g);
        codes[at++] = code(b);
      }
  return codes;
}

/**
 * How a device shows the colours of one of our spaces on a screen of sRGB, its white as the screen's
 * white. Relative intent is with black point compensation. What the device cannot show is found as
 * Little CMS does: the error of going there and back, less the error of doing so once more, which is
 * the tables' own.
 *
 * @param profile  of the device
 * @param name  of its file
 * @throws RhizomeError `not-a-profile`
 */
export function softProofTable(
  vips: Engine,
  profile: Uint8Array,
  name: string,
  intent: SoftProofIntent,
  space: SpaceId,
): SoftProofTable {
  printerProfileName(profile, name);
  const made: Picture[] = [];
  const held = (image: Picture): Picture => {
    made.push(image);
    return image;
  };
  const tagged = (image: Picture, icc: Uint8Array): Picture => {
    const copy = held(image.copy());
    copy.setBlob("icc-profile-data", icc);
    return copy;
  };
  const through = (lab: Picture, by: SoftProofIntent): Picture => {
    const compensated = { black_point_compensation: true, pcs: "lab" as const };
    const ink = held(tagged(lab, profile).iccExport({ intent: by, depth: 16, ...compensated }));
    return held(ink.iccImport({ intent: "relative", embedded: true, ...compensated }));
  };
  try {
    const cube = held(
      vips.Image.newFromMemory(
        nodes(),
        SOFT_PROOF_SIDE ** 2,
        SOFT_PROOF_SIDE,
        3,
        vips.BandFormat.ushort,
      ),
    );
    const codes = tagged(held(cube.copy({ interpretation: "rgb16" })), writeProfile(space));
    const colours = held(codes.iccImport({ intent: "relative", embedded: true, pcs: "lab" }));
    const printed = through(colours, "relative");
    const again = through(printed, "relative");
    const missed = held(colours.dE00(printed));
    const ofTables = held(printed.dE00(again));
    const seen = intent === "relative" ? printed : through(colours, intent);
    const onScreen = held(
      tagged(seen, writeProfile("srgb")).iccExport({ intent: "relative", depth: 8, pcs: "lab" }),
    );
    return packed(
      new Uint8Array(onScreen.writeToMemory()),
      floats(missed.writeToMemory()),
      floats(ofTables.writeToMemory()),
    );
  } catch (e) {
    throw e instanceof RhizomeError
      ? e
      : new RhizomeError(
          "not-a-profile",
          `${name} is damaged, or its tables cannot be used.`,
          "get the profile again from where it came from",
        );
  } finally {
    for (const image of made.reverse()) image.delete();
  }
}

const floats = ({ buffer, byteOffset, byteLength }: ArrayBufferView): Float32Array =>
  new Float32Array(buffer as ArrayBuffer, byteOffset, byteLength / 4);

function packed(rgb: Uint8Array, missed: Float32Array, ofTables: Float32Array): SoftProofTable {
  const table = new Uint8Array(missed.length * 4);
  missed.forEach((error, i) => {
    table.set(rgb.subarray(i * 3, i * 3 + 3), i * 4);
    const excess = Math.max(0, error - ofTables[i]!);
    table[i * 4 + 3] = Math.min(255, Math.round(excess * EXCESS_SCALE));
  });
  return table;
}
