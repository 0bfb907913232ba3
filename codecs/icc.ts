import { apply, multiply, type Matrix3 } from "../core/math/matrix3";
import {
  bradford,
  D50_XYZ,
  D65_XYZ,
  decode,
  SPACES,
  toWorking,
  xyzToWorking,
  type SpaceId,
} from "../core/colour/spaces";
import { clamp } from "../core/math/clamp";

/**
 * How a file's samples become linear Rec. 2020: a curve per channel (0..1 to linear), then a
 * matrix.
 */
export interface InputColour {
  name: string;
  curves: ((v: number) => number)[];
  matrix: Matrix3;
}

/** How samples of one of our own spaces become linear light in the working space. */
export function colourOfSpace(space: SpaceId): InputColour {
  const f = (v: number): number => decode(SPACES[space].curve, v);
  return { name: SPACES[space].name, curves: [f, f, f], matrix: toWorking(space) };
}

/** What a profile says of itself (ICC.1:2022, 7.2). */
export interface ProfileHead {
  name: string;
  /** kind of device: `prtr` of printers, `mntr` of displays, and others */
  device: string;
  /** its codes: `RGB `, `CMYK`, `GRAY` and others */
  space: string;
  tags: Tags;
}
type Tags = Map<string, { at: number; size: number }>;

const textAt = (bytes: Uint8Array, at: number, n: number): string =>
  String.fromCharCode(...bytes.subarray(at, at + n));

/** The head of a profile and where its tags are; undefined where the bytes are none. */
export function readProfileHead(bytes: Uint8Array): ProfileHead | undefined {
  if (bytes.length < 132 || textAt(bytes, 36, 4) !== "acsp") return undefined;
  const d = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const tags: Tags = new Map();
  for (let i = 0, n = Math.min(100, d.getUint32(128)); i < n && 144 + i * 12 <= bytes.length; i++) {
    const at = d.getUint32(136 + i * 12);
    const size = d.getUint32(140 + i * 12);
    if (at + size <= bytes.length && size >= 12)
      tags.set(textAt(bytes, 132 + i * 12, 4), { at, size });
  }
  const name = readName(d, tags, bytes);
  return { name, device: textAt(bytes, 12, 4), space: textAt(bytes, 16, 4), tags };
}

/**
 * Reads a matrix profile (ICC.1:2022, RGB, rXYZ/gXYZ/bXYZ with rTRC/gTRC/bTRC).
 *
 * @returns undefined where the profile works with tables, or is none: such files go through a
 *   colour engine
 */
export function readMatrixProfile(bytes: Uint8Array): InputColour | undefined {
  const profile = readProfileHead(bytes);
  if (profile?.space !== "RGB ") return undefined;
  const { tags } = profile;
  if (tags.has("A2B0")) return undefined;
  const d = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const text = (at: number, n: number): string => textAt(bytes, at, n);
  const s15 = (at: number): number => d.getInt32(at) / 65536;
  const columns = ["rXYZ", "gXYZ", "bXYZ"].map((t) => {
    const g = tags.get(t);
    return g && g.size >= 20 ? [s15(g.at + 8), s15(g.at + 12), s15(g.at + 16)] : undefined;
  });
  const curves = ["rTRC", "gTRC", "bTRC"].map((t) => {
    const g = tags.get(t);
    return g && readCurve(d, g.at, g.size, text(g.at, 4));
  });
  if (columns.some((c) => !c) || curves.some((c) => !c)) return undefined;
  const [r, g, b] = columns as [number[], number[], number[]];
  const toD50 = [r[0]!, g[0]!, b[0]!, r[1]!, g[1]!, b[1]!, r[2]!, g[2]!, b[2]!];
  return {
    name: profile.name,
    curves: curves as ((v: number) => number)[],
    matrix: multiply(xyzToWorking(), multiply(bradford(D50_XYZ, D65_XYZ), toD50)),
  };
}

function readCurve(
  d: DataView,
  at: number,
  size: number,
  type: string,
): ((v: number) => number) | undefined {
  if (type === "curv") {
    const n = d.getUint32(at + 8);
    if (n === 0) return (v) => v;
    if (12 + n * 2 > size) return undefined;
    if (n === 1) {
      const g = d.getUint16(at + 12) / 256;
      return (v) => v ** g;
    }
    const t = Float64Array.from({ length: n }, (_, i) => d.getUint16(at + 12 + i * 2) / 65535);
    return (v) => {
      const x = clamp(v, 0, 1) * (n - 1);
      const i = Math.min(n - 2, Math.floor(x));
      return t[i]! + (t[i + 1]! - t[i]!) * (x - i);
    };
  }
  if (type !== "para") return undefined;
  const kind = d.getUint16(at + 8);
  const count = [1, 3, 4, 5, 7][kind];
  if (count === undefined || 12 + count * 4 > size) return undefined;
  const [g = 1, a = 1, b = 0, c = 0, dd = 0, e = 0, f = 0] = Array.from(
    { length: count },
    (_, i) => d.getInt32(at + 12 + i * 4) / 65536,
  );
  const p = (v: number): number => Math.max(0, v) ** g;
  return [
    p,
    (v: number) => (v >= -b / a ? p(a * v + b) : 0),
    (v: number) => (v >= -b / a ? p(a * v + b) + c : c),
    (v: number) => (v >= dd ? p(a * v + b) : c * v),
    (v: number) => (v >= dd ? p(a * v + b) + e : c * v + f),
  ][kind];
}

function readName(d: DataView, tags: Tags, bytes: Uint8Array): string {
  const g = tags.get("desc");
  if (!g) return "embedded profile";
  const type = textAt(bytes, g.at, 4);
  if (type === "desc")
    return new TextDecoder("latin1").decode(
      bytes.subarray(g.at + 12, g.at + 12 + clamp(d.getUint32(g.at + 8) - 1, 0, g.size - 12)),
    );
  if (type !== "mluc" || g.size < 28) return "embedded profile";
  const len = d.getUint32(g.at + 20);
  const off = d.getUint32(g.at + 24);
  if (off + len > g.size) return "embedded profile";
  return Array.from({ length: len >> 1 }, (_, i) =>
    String.fromCharCode(d.getUint16(g.at + off + i * 2)),
  ).join("");
}

/** A version 4.3 matrix profile of one of our spaces, or of its primaries without the curve. */
export function writeProfile(space: SpaceId, linear = false): Uint8Array {
  const s = SPACES[space];
  const c = linear ? SPACES.linear.curve : s.curve;
  const m = multiply(bradford(D65_XYZ, D50_XYZ), s.toXyz);
  const s15 = (v: number): number[] => {
    const i = Math.round(v * 65536) | 0;
    return [(i >> 24) & 255, (i >> 16) & 255, (i >> 8) & 255, i & 255];
  };
  const u32 = (v: number): number[] => [
    (v >>> 24) & 255,
    (v >>> 16) & 255,
    (v >>> 8) & 255,
    v & 255,
  ];
  const ascii = (t: string): number[] => [...t].map((ch) => ch.charCodeAt(0));
  const mluc = (t: string): number[] => [
    ...ascii("mluc"),
    ...u32(0),
    ...u32(1),
    ...u32(12),
    ...ascii("enUS"),
    ...u32(t.length * 2),
    ...u32(28),
    ...ascii(t).flatMap((ch) => [0, ch]),
  ];
  const xyz = (v: readonly number[]): number[] => [...ascii("XYZ "), ...u32(0), ...v.flatMap(s15)];
  // ICC curves run from encoded to linear: ((v + b) / a)^gamma above the break, v / slope below
  const curve =
    c.threshold > 0
      ? [
          ...ascii("para"),
          ...u32(0),
          0,
          3,
          0,
          0,
          ...s15(c.gamma),
          ...s15(1 / c.a),
          ...s15(c.b / c.a),
          ...s15(1 / c.slope),
          ...s15(c.threshold * c.slope),
        ]
      : [...ascii("para"), ...u32(0), 0, 0, 0, 0, ...s15(c.gamma)];
  const col = (i: number): number[] => [m[i]!, m[3 + i]!, m[6 + i]!];
  const white = apply(bradford(D65_XYZ, D50_XYZ), D65_XYZ);
  const chad = [...ascii("sf32"), ...u32(0), ...bradford(D65_XYZ, D50_XYZ).flatMap(s15)];
  const parts: [string, number[]][] = [
    ["desc", mluc(`${s.name}${linear && space !== "linear" ? ", linear" : ""}, made by Rhizome`)],
    ["cprt", mluc("No copyright, use freely")],
    ["wtpt", xyz(white)],
    ["chad", chad],
    ["rXYZ", xyz(col(0))],
    ["gXYZ", xyz(col(1))],
    ["bXYZ", xyz(col(2))],
    ["rTRC", curve],
    ["gTRC", curve],
    ["bTRC", curve],
  ];
  let at = 132 + parts.length * 12;
  const table: number[] = [];
  const data: number[] = [];
  const placed = new Map<number[], number>();
  for (const [tag, body] of parts) {
    if (!placed.has(body)) {
      placed.set(body, at);
      data.push(...body);
      while (data.length % 4) data.push(0);
      at = 132 + parts.length * 12 + data.length;
    }
    table.push(...ascii(tag), ...u32(placed.get(body)!), ...u32(body.length));
  }
  const head = [
    ...u32(at),
    ...u32(0),
    4,
    0x30,
    0,
    0,
    ...ascii("mntrRGB XYZ "),
    7,
    234,
    0,
    1,
    0,
    1,
    0,
    0,
    0,
    0,
    0,
    0,
    ...ascii("acsp"),
    ...u32(0),
    ...u32(0),
    ...u32(0),
    ...u32(0),
    ...u32(0),
    ...u32(0),
    ...u32(1),
    ...s15(0.9642),
    ...s15(1),
    ...s15(0.8249),
  ];
  while (head.length < 128) head.push(0);
  return Uint8Array.from([...head, ...u32(parts.length), ...table, ...data]);
}
