import { contentHash } from "../../pipeline/contentHash";

/** What a file of a backup is checked by: of an original it is the key of its frame's content. */
export async function checksum(content: Blob | string): Promise<string> {
  return contentHash(
    typeof content === "string"
      ? new TextEncoder().encode(content)
      : new Uint8Array(await content.arrayBuffer()),
  );
}
