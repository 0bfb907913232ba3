import type { DustSpot } from "./preparation";
import { clamp } from "../math/clamp";

/** Directions and distances (in radii) at which a clean place is looked for. */
const SEARCH_DIRECTIONS = 24;
const FAR = [2.3, 3.2] as const;
/** Width of the ring by which places are compared, in radii. */
const RING_RADII = 1.35;

/** Rows beyond its own that the healing of spots looks at, px. */
export const healReach = (spots: readonly DustSpot[], w: number): number =>
  Math.ceil(
    Math.max(0, ...spots.map((s) => Math.max(1.5, s.radius * w))) * (FAR[1] + 2 * RING_RADII) +
      (spots.length ? 4 : 0),
  );

/**
 * Heals spots of a frame in place: each takes the texture of the near place whose surroundings are
 * most alike, brought to the light of the spot's own surroundings.
 *
 * @param rgb  w x h samples R, G, B in even steps to the eye
 * @param top  the frame's row that comes first, and how many rows all of it has, where only some
 *   are there
 * @see Perez, Gangnet, Blake, "Poisson image editing", SIGGRAPH 2003; the membrane by inverse
 *   distances to the ring
 */
export function healSpots(
  rgb: Uint16Array,
  w: number,
  h: number,
  given: readonly DustSpot[],
  top = 0,
  whole = h,
): void {
  const spots = given.map((s) => ({ ...s, y: (s.y * whole - top) / h }));
  for (const spot of spots) {
    const cx = spot.x * w;
    const cy = spot.y * h;
    const r = Math.max(1.5, spot.radius * w);
    const reach = Math.ceil(r * RING_RADII);
    const ring: [number, number][] = [];
    const inside: [number, number][] = [];
    for (let y = -reach; y <= reach; y++)
      for (let x = -reach; x <= reach; x++) {
        const X = Math.floor(cx) + x;
        const Y = Math.floor(cy) + y;
        const d = Math.hypot(X + 0.5 - cx, Y + 0.5 - cy);
        if (X < 0 || Y < 0 || X >= w || Y >= h || d > r * RING_RADII) continue;
        (d <= r ? inside : ring).push([X, Y]);
      }
    if (!ring.length || !inside.length) continue;
    let best: { dx: number; dy: number; cost: number } | undefined;
    for (const far of FAR)
      for (let k = 0; k < SEARCH_DIRECTIONS; k++) {
        const t = (2 * Math.PI * k) / SEARCH_DIRECTIONS;
        const dx = Math.round(Math.cos(t) * r * far);
        const dy = Math.round(Math.sin(t) * r * far);
        if (
          cx + dx - reach < 0 ||
          cy + dy - reach < 0 ||
          cx + dx + reach >= w ||
          cy + dy + reach >= h
        )
          continue;
        // a place with a spot of its own is none to take from
        if (
          spots.some(
            (o) =>
              o !== spot && Math.hypot(o.x * w - cx - dx, o.y * h - cy - dy) < r + o.radius * w,
          )
        )
          continue;
        let sum = 0;
        let mean = [0, 0, 0];
        for (const [x, y] of ring)
          for (let c = 0; c < 3; c++)
            mean[c]! += rgb[(y * w + x) * 3 + c]! - rgb[((y + dy) * w + x + dx) * 3 + c]!;
        mean = mean.map((m) => m / ring.length);
        for (const [x, y] of ring)
          for (let c = 0; c < 3; c++)
            sum +=
              (rgb[(y * w + x) * 3 + c]! - rgb[((y + dy) * w + x + dx) * 3 + c]! - mean[c]!) ** 2;
        const cost = sum + 0.05 * ring.length * mean.reduce((s, m) => s + m * m, 0);
        if (!best || cost < best.cost) best = { dx, dy, cost };
      }
    const { dx, dy } = best ?? { dx: 0, dy: 0 };
    const step = Math.max(1, Math.floor(ring.length / 48));
    const rim = ring.filter((_, i) => i % step === 0);
    const healed = inside.map(([x, y]) => {
      let weight = 0;
      const add = [0, 0, 0];
      for (const [u, v] of rim) {
        const q = 1 / ((x - u) ** 2 + (y - v) ** 2);
        weight += q;
        for (let c = 0; c < 3; c++)
          add[c]! +=
            q * (rgb[(v * w + u) * 3 + c]! - (best ? rgb[((v + dy) * w + u + dx) * 3 + c]! : 0));
      }
      return add.map((s, c) => (best ? rgb[((y + dy) * w + x + dx) * 3 + c]! : 0) + s / weight);
    });
    inside.forEach(([x, y], i) => {
      for (let c = 0; c < 3; c++)
        rgb[(y * w + x) * 3 + c] = clamp(Math.round(healed[i]![c]!), 0, 65535);
    });
  }
}
