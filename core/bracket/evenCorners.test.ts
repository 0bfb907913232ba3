import { Heap } from "../../kernels/heap";
import { decode, encode, SPACES } from "../colour/spaces";
import { project } from "../math/matrix3";
import { random } from "../math/random";
import { evenCorners } from "./evenCorners";

const curve = SPACES.srgb.curve;

test.each([0.2, -0.15])(
  "light is changed by %f EV at the frame's corners, squared between, the same for any cut into rows",
  (ev) => {
    const width = 90;
    const height = 60;
    const heap = Heap.local(1e6);
    const rnd = random(3);
    const toFrame = [0.98, 0.02, 3, -0.02, 0.98, 2, 0, 0, 1];
    const frame = { width: 96, height: 64 };
    const px = Uint16Array.from({ length: width * height * 3 }, (_, i) =>
      i % 97 === 0 ? 0 : 400 + rnd() * 62000,
    );
    const ptr = heap.alloc(px.byteLength);
    const at = heap.u16(ptr, px.length);
    const job = { ptr, width, height, toFrame, frame, ev };
    at.set(px);
    evenCorners(heap, job, 0, 60);
    const whole = at.slice();
    let worst = 0;
    for (let i = 0; i < px.length; i++) {
      const k = Math.floor(i / 3);
      const [u, v] = project(toFrame, (k % width) + 0.5, Math.floor(k / width) + 0.5);
      const r2 = ((u - 48) ** 2 + (v - 32) ** 2) / ((96 ** 2 + 64 ** 2) / 4);
      const wanted =
        65535 * encode(curve, Math.min(1, decode(curve, px[i]! / 65535) * 2 ** (ev * r2)));
      worst = Math.max(worst, Math.abs(whole[i]! - wanted));
    }
    // a thousandth of the brightest: an eighth of what a bit of a JPEG is
    expect(worst).toBeLessThan(66);
    expect([...whole].every((v, i) => px[i]! > 0 || v === 0)).toBe(true);
    at.set(px);
    for (const [a, b] of [
      [0, 7],
      [7, 8],
      [8, 60],
    ] as const)
      evenCorners(heap, job, a, b);
    expect([...at]).toEqual([...whole]);
  },
);
