import type { RetouchSettings } from "../../pipeline/retouch/step";

/**
 * Repairs with the healed spots of another picture of the same camera: each finds its own source
 * there. What is healed already is not healed twice.
 */
export function withSpotsOf(own: RetouchSettings, source: RetouchSettings): RetouchSettings {
  const known = new Set(own.repairs.map(({ shape }) => JSON.stringify(shape)));
  const spots = source.repairs
    .filter(({ kind, shape, on }) => on && kind === "heal" && shape.type === "spot")
    .filter(({ shape }) => !known.has(JSON.stringify(shape)))
    .map(({ source: _source, ...spot }) => spot);
  return { ...own, repairs: [...own.repairs, ...spots] };
}
