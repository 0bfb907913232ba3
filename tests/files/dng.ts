/**
 * Writes small uncompressed DNG files (DNG 1.4): a Bayer mosaic or linear RGB, little-endian, for
 * tests.
 */
export interface DngOptions {
  width: number;
  height: number;
  /** 1 sample a pixel = RGGB mosaic, 3 = linear */
  samples: Uint16Array;
  bayer: boolean;
  black?: number;
  white?: number;
  /** camera neutral: what a grey reads, R G B */
  neutral?: [number, number, number];
  /** XYZ to camera, row-major */
  colorMatrix?: number[];
  exposureTime?: [number, number];
  orientation?: number;
  /** bytes of the third list of opcodes */
  opcodes?: number[];
}

type Tag = [tag: number, type: 1 | 2 | 3 | 4 | 5 | 10, values: number[] | string];
const SIZE = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 10: 8 } as const;

export function writeDng(o: DngOptions): Uint8Array {
  const rational = (v: number): number[] => [Math.round(v * 1e6), 1e6];
  const main: Tag[] = [
    [254, 4, [0]],
    [256, 4, [o.width]],
    [257, 4, [o.height]],
    [258, 3, o.bayer ? [16] : [16, 16, 16]],
    [259, 3, [1]],
    [262, 3, [o.bayer ? 32803 : 34892]],
    [271, 2, "Rhizome"],
    [272, 2, "Stand-in"],
    [273, 4, [0]],
    [274, 3, [o.orientation ?? 1]],
    [277, 3, [o.bayer ? 1 : 3]],
    [278, 4, [o.height]],
    [279, 4, [o.samples.byteLength]],
    [284, 3, [1]],
    ...(o.bayer
      ? ([
          [33421, 3, [2, 2]],
          [33422, 1, [0, 1, 1, 2]],
        ] as Tag[])
      : []),
    [34665, 4, [0]],
    [50706, 1, [1, 4, 0, 0]],
    [50708, 2, "Rhizome Stand-in"],
    [50714, 3, [o.black ?? 0]],
    [50717, 4, [o.white ?? 65535]],
    [
      50721,
      10,
      (
        o.colorMatrix ?? [
          3.2404542, -1.5371385, -0.4985314, -0.969266, 1.8760108, 0.041556, 0.0556434, -0.2040259,
          1.0572252,
        ]
      ).flatMap(rational),
    ],
    [50728, 5, (o.neutral ?? [1, 1, 1]).flatMap(rational)],
    [50778, 3, [21]],
    ...(o.opcodes ? ([[51022, 1, o.opcodes]] as Tag[]) : []),
  ];
  const exif: Tag[] = [
    [33434, 5, o.exposureTime ?? [1, 60]],
    [33437, 5, [8, 1]],
    [34855, 3, [100]],
    [36867, 2, "2026:05:04 10:11:12"],
  ];
  const out: number[] = [0x49, 0x49, 42, 0, 8, 0, 0, 0];
  const u16 = (v: number): number[] => [v & 255, (v >> 8) & 255];
  const u32 = (v: number): number[] => [v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >>> 24) & 255];
  const bytesOf = ([, type, v]: Tag): number[] =>
    typeof v === "string"
      ? [...v, "\0"].map((c) => c.charCodeAt(0))
      : v.flatMap((n) => (SIZE[type] === 1 ? [n & 255] : SIZE[type] === 2 ? u16(n) : u32(n)));
  const length = (tags: Tag[]): number =>
    2 +
    tags.length * 12 +
    4 +
    tags.reduce(
      (s, t) => s + (bytesOf(t).length > 4 ? bytesOf(t).length + (bytesOf(t).length & 1) : 0),
      0,
    );
  const exifAt = 8 + length(main);
  const dataAt = exifAt + length(exif);
  const directory = (tags: Tag[], at: number): void => {
    const table: number[] = [...u16(tags.length)];
    const tail: number[] = [];
    const tailAt = at + 2 + tags.length * 12 + 4;
    for (const t of [...tags].sort((a, b) => a[0] - b[0])) {
      const bytes = t[0] === 273 ? u32(dataAt) : t[0] === 34665 ? u32(exifAt) : bytesOf(t);
      table.push(...u16(t[0]), ...u16(t[1]), ...u32(bytes.length / SIZE[t[1]]));
      if (bytes.length <= 4) table.push(...bytes, ...new Array<number>(4 - bytes.length).fill(0));
      else {
        table.push(...u32(tailAt + tail.length));
        tail.push(...bytes);
        if (tail.length & 1) tail.push(0);
      }
    }
    out.push(...table, 0, 0, 0, 0, ...tail);
  };
  directory(main, 8);
  directory(exif, exifAt);
  const file = new Uint8Array(out.length + o.samples.byteLength);
  file.set(out);
  file.set(
    new Uint8Array(o.samples.buffer, o.samples.byteOffset, o.samples.byteLength),
    out.length,
  );
  return file;
}
