/** Bytes that the head's length takes; typed arrays begin at multiples of ALIGNED. */
const LENGTH = 4;
const ALIGNED = 8;
const KINDS = { Uint8Array, Uint16Array, Int32Array, Float32Array, Float64Array };
type Kind = keyof typeof KINDS;
type TypedArray = InstanceType<(typeof KINDS)[Kind]>;

const isTyped = (v: unknown): v is TypedArray =>
  ArrayBuffer.isView(v) && v.constructor.name in KINDS;
const aligned = (n: number): number => Math.ceil(n / ALIGNED) * ALIGNED;

/**
 * Plain data with typed arrays in it as bytes: the head's length, the head as JSON, then the arrays
 * one after the other. What JSON has no word for (undefined, NaN, infinity) is written as an object
 * of one field "$".
 */
export function writeRecord(value: unknown): Uint8Array<ArrayBuffer> {
  const arrays: TypedArray[] = [];
  let bytes = 0;
  const plain = (v: unknown): unknown => {
    if (v === undefined) return { $: "undefined" };
    if (typeof v === "number" && !Number.isFinite(v)) return { $: String(v) };
    if (isTyped(v)) {
      const at = bytes;
      arrays.push(v);
      bytes += aligned(v.byteLength);
      return { $: v.constructor.name, at, length: v.length };
    }
    if (Array.isArray(v)) return v.map(plain);
    if (v && typeof v === "object")
      return Object.fromEntries(
        Object.entries(v)
          .filter(([, own]) => own !== undefined)
          .map(([key, own]) => [key, plain(own)]),
      );
    return v;
  };
  const head = new TextEncoder().encode(JSON.stringify(plain(value)));
  const from = aligned(LENGTH + head.length);
  const out = new Uint8Array(from + bytes);
  new DataView(out.buffer).setUint32(0, head.length, true);
  out.set(head, LENGTH);
  let at = from;
  for (const a of arrays) {
    out.set(new Uint8Array(a.buffer, a.byteOffset, a.byteLength), at);
    at += aligned(a.byteLength);
  }
  return out;
}

/**
 * What `writeRecord` wrote, its arrays copies of their own.
 *
 * @throws when the bytes are cut short or not a record
 */
export function readRecord(bytes: Uint8Array): unknown {
  const length = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(0, true);
  const from = aligned(LENGTH + length);
  const revive = (_: string, v: unknown): unknown => {
    if (!v || typeof v !== "object" || !("$" in v)) return v;
    const { $: kind, at = 0, length: n = 0 } = v as { $: string; at?: number; length?: number };
    if (kind in KINDS) {
      const Typed = KINDS[kind as Kind];
      const part = new Uint8Array(
        bytes.subarray(from + at, from + at + n * Typed.BYTES_PER_ELEMENT),
      );
      if (part.length !== n * Typed.BYTES_PER_ELEMENT) throw new RangeError("cut short");
      return new Typed(part.buffer);
    }
    return kind === "undefined" ? UNDEFINED : Number(kind);
  };
  return withUndefined(
    JSON.parse(new TextDecoder().decode(bytes.subarray(LENGTH, LENGTH + length)), revive),
  );
}

/** JSON drops what a reviver answers with undefined. */
const UNDEFINED = Symbol("undefined");
function withUndefined(v: unknown): unknown {
  if (v === UNDEFINED) return undefined;
  if (Array.isArray(v)) return v.map(withUndefined);
  if (v && typeof v === "object" && !ArrayBuffer.isView(v))
    for (const [key, own] of Object.entries(v))
      (v as Record<string, unknown>)[key] = withUndefined(own);
  return v;
}
