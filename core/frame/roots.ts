/** RGB of a frame as square roots of light in 8 bit: fine enough for where edges lie, and small. */
export interface RootPlanes {
  width: number;
  height: number;
  r: Uint8Array;
  g: Uint8Array;
  b: Uint8Array;
}

let table: Float32Array | undefined;

/**
 * Tables, R then G then B, from square roots of light in 16 bit to light; made when first needed.
 */
export function rootsTable(): Float32Array {
  if (!table) {
    table = new Float32Array(65536 * 3);
    for (let i = 0; i < table.length; i++) table[i] = ((i % 65536) / 65535) ** 2;
  }
  return table;
}
