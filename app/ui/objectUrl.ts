/** Addresses of blobs that are shown, or were a moment ago. */
const addresses = new Map<
  Blob,
  { url: string; users: number; timer?: ReturnType<typeof setTimeout> }
>();
/** An address outlives its last user by so long: rows come back when one scrolls back, ms. */
const KEPT_MS = 5000;

/** The address of a blob; `holdObjectUrl` says that it is shown. */
export function objectUrlOf(blob: Blob): string {
  const known = addresses.get(blob);
  if (known) return known.url;
  const url = URL.createObjectURL(blob);
  addresses.set(blob, { url, users: 0 });
  return url;
}

/** It is shown. @returns it is shown no more */
export function holdObjectUrl(blob: Blob): () => void {
  objectUrlOf(blob);
  const held = addresses.get(blob)!;
  held.users++;
  clearTimeout(held.timer);
  return () => {
    held.users--;
    if (held.users) return;
    held.timer = setTimeout(() => {
      addresses.delete(blob);
      URL.revokeObjectURL(held.url);
    }, KEPT_MS);
  };
}
