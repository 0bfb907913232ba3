/** Bytes of the digest that are kept. */
const KEPT = 16;

/** What content is known by: the first half of its SHA-256, in 32 hexadecimal digits. */
export async function contentHash(bytes: Uint8Array): Promise<string> {
  const digest = new Uint8Array(await crypto.subtle.digest("SHA-256", bytes as BufferSource));
  return Array.from(digest.subarray(0, KEPT), (byte) => byte.toString(16).padStart(2, "0")).join(
    "",
  );
}
