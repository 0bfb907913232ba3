/** Digits of a checksum: as many as the key of a frame's content has. */
const DIGITS = 32;

/** The first half of a file's SHA-256, in hexadecimal digits. */
export async function checksum(content: Blob | string): Promise<string> {
  const bytes =
    typeof content === "string"
      ? new TextEncoder().encode(content)
      : new Uint8Array(await content.arrayBuffer());
  const digest = new Uint8Array(await crypto.subtle.digest("SHA-256", bytes));
  return Array.from(digest, (byte) => byte.toString(16).padStart(2, "0"))
    .join("")
    .slice(0, DIGITS);
}
