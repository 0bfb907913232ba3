import type Vips from "wasm-vips";
import type { Samples } from "../kernels/heap";

/** A file as pieces, one after another: a large one never lies in memory twice. */
export type Parts = Uint8Array<ArrayBuffer>[];

/** The pieces of a file in one. */
export function joined(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(parts.reduce((s, p) => s + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}

/**
 * Samples, RGB interleaved, as a picture that libvips reads from where they lie, row by row; both
 * are to be deleted.
 */
export function pictureOf(
  vips: typeof Vips,
  samples: Samples,
  width: number,
  height: number,
): { image: Vips.Image; source: Vips.SourceCustom } {
  // the plainest stream there is: Netpbm's, and of floats its variant, which libvips reads from the
  // top down
  const float = samples instanceof Float32Array;
  const sixteen = samples instanceof Uint16Array;
  const head = new TextEncoder().encode(
    float ? `PF\n${width} ${height}\n-1.0\n` : `P6\n${width} ${height}\n${sixteen ? 65535 : 255}\n`,
  );
  const body = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  const all = head.length + body.length;
  let at = 0;
  const source = new vips.SourceCustom();
  source.onRead = (length) => {
    if (at >= all) return undefined;
    const from = at - head.length;
    if (from < 0) {
      const part = head.subarray(at, at + length);
      at += part.length;
      return part;
    }
    // samples of two bytes come with the higher one first, so a piece holds whole ones
    const n = Math.min(sixteen && length > 1 ? length & ~1 : length, body.length - from);
    at += n;
    return sixteen ? swapped(body, from, n) : body.slice(from, from + n);
  };
  return { image: vips.Image.newFromSource(source, "", { access: "sequential" }), source };
}

/** Bytes from .. from + n of pairs, the second of each pair first. */
function swapped(body: Uint8Array, from: number, n: number): Uint8Array {
  const out = new Uint8Array(n);
  for (let i = 0; i < n; i++) out[i] = body[(from + i) ^ 1]!;
  return out;
}

const PIECE = 1 << 22;

/**
 * Where libvips writes a file, going back in it as TIFF asks; to be deleted when the file is
 * written.
 */
export function partsTarget(vips: typeof Vips): { target: Vips.TargetCustom; parts(): Parts } {
  const pieces: Parts = [];
  const target = new vips.TargetCustom();
  let at = 0;
  let end = 0;
  target.onWrite = (data) => {
    for (let i = 0; i < data.length;) {
      const k = Math.floor(at / PIECE);
      const o = at % PIECE;
      const n = Math.min(PIECE - o, data.length - i);
      while (pieces.length <= k) pieces.push(new Uint8Array(PIECE));
      pieces[k]!.set(data.subarray(i, i + n), o);
      i += n;
      at += n;
    }
    end = Math.max(end, at);
    return data.length;
  };
  target.onSeek = (offset, whence) => {
    const from = [0, at, end][whence]!;
    at = from + offset;
    return at;
  };
  target.onRead = (length) => {
    const n = Math.min(length, end - at, PIECE - (at % PIECE));
    if (n <= 0) return undefined;
    const from = at % PIECE;
    const part = pieces[Math.floor(at / PIECE)]!.slice(from, from + n);
    at += n;
    return part;
  };
  return {
    target,
    parts: () =>
      pieces
        .slice(0, Math.ceil(end / PIECE))
        .map((p, i) => (end - i * PIECE < PIECE ? p.slice(0, end - i * PIECE) : p)),
  };
}
