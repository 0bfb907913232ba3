import { DOMParser } from "@xmldom/xmldom";
import ExifReader from "exifreader";
import { wordsOf, type Words } from "./exif";
import { writeXmp } from "./xmp";

/** How a packet begins. */
const PACKET = "<?xpacket begin";

/** Largest sidecar that is read, bytes: beyond it a file is taken for something else. */
const LARGEST = 16 * 2 ** 20;

/** Reads a sidecar, XMP beside a file (ISO 16684-1); what is broken or missing is left out. */
export function readSidecar(bytes: Uint8Array): Words {
  if (bytes.length > LARGEST) return {};
  try {
    // the library knows a sidecar by the packet that many programs leave out
    const text = new TextDecoder().decode(bytes).replace(/^\s*(<\?xml[^>]*>|\s)*/, "");
    const declared = text.startsWith(PACKET) ? text : `${PACKET}="" id=""?>${text}`;
    const copy = new TextEncoder().encode(declared).buffer;
    // whatever it says against a broken file is no news: the file then says nothing
    const domParser = new DOMParser({ onError: () => undefined });
    return wordsOf(ExifReader.load(copy, { expanded: false, domParser }) as never);
  } catch {
    return {};
  }
}

/** A sidecar with these words. @param from  the one that is there, of which all else is kept */
export const writeSidecar = (words: Words, from?: string): string =>
  writeXmp(
    {
      kind: "",
      frames: [],
      evs: [],
      creator: words.creator ?? "",
      copyright: words.copyright ?? "",
      ...(words.rating ? { rating: words.rating } : {}),
      ...(words.label ? { label: words.label } : {}),
      ...(words.caption ? { description: words.caption } : {}),
    },
    from,
  );
