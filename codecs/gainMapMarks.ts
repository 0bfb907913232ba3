/** How files say that a gain map goes with them: ISO 21496-1, its XMP, and phones' own ways. */
const MARKS = ["urn:iso:std:iso:ts:21496:-1", "hdrgm:Version", "aux:hdrgainmap", "HDRGainMap"];
/** Files say it before the picture; what is behind so many bytes is not looked at. */
const LOOKED_AT = 1 << 18;

const isAt = (bytes: Uint8Array, mark: Uint8Array, at: number): boolean =>
  mark.every((byte, i) => bytes[at + i] === byte);

/** Whether a gain map for HDR displays goes with a picture: it is left aside when that is read. */
export function hasGainMap(bytes: Uint8Array): boolean {
  const head = bytes.subarray(0, LOOKED_AT);
  return MARKS.some((text) => {
    const mark = new TextEncoder().encode(text);
    for (let at = head.indexOf(mark[0]!); at >= 0; at = head.indexOf(mark[0]!, at + 1))
      if (isAt(head, mark, at)) return true;
    return false;
  });
}
