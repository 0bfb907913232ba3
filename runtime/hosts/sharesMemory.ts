/**
 * Whether threads may share memory here: the page is isolated from others, and the browser has such
 * memory, which some leave out.
 */
export const sharesMemory = (): boolean =>
  globalThis.crossOriginIsolated === true && typeof globalThis.SharedArrayBuffer === "function";
