import { planeBytesOf } from "../core/raster/accumulator";
import { ScenePlanes, type PlacedRows } from "../core/retouch/logWindow";
import { Heap } from "../kernels/heap";

/** A merged scene in memory whose light is given for each pixel. */
export interface LitScene {
  heap: Heap;
  rows: PlacedRows;
  planes: ScenePlanes;
  size: { width: number; height: number };
}

/** A scene of so many px, covered everywhere. */
export function litScene(
  width: number,
  height: number,
  light: (x: number, y: number) => readonly [number, number, number],
): LitScene {
  const planeBytes = planeBytesOf(width, height);
  const heap = Heap.local(planeBytes * 4 + 40e6);
  const rows = { ptr: heap.alloc(planeBytes * 4 + 64), planeBytes, width, height, x: 0, y: 0 };
  const planes = new ScenePlanes(heap, rows);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      light(x, y).forEach((value, c) => {
        planes.colours[c]![i] = value;
      });
      planes.weight[i] = 1;
    }
  return { heap, rows, planes, size: { width, height } };
}
