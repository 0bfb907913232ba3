/** How sidecars end. */
export const SIDECAR_ENDING = ".xmp";
/** Whether a file is a sidecar, by its name. */
export const isSidecarName = (name: string): boolean => /\.xmp$/i.test(name);

/**
 * Under which names a file's sidecar may lie beside it: in place of its ending, or behind it.
 *
 * @returns in lower case, since programs write them either way
 */
export const sidecarNames = (name: string): string[] => {
  const lower = name.toLowerCase();
  return [lower.replace(/\.[^.]*$/, "") + SIDECAR_ENDING, lower + SIDECAR_ENDING];
};
