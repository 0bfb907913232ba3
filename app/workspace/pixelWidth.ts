/** Widths on the picture are shown as if it were so many px wide. */
const SHOWN_WIDTH = 2000;

/** How a slider writes and reads a radius in shares of the picture's width: as a width in px. */
export const pixelWidth = {
  shown: (radius: number): string => String(Math.round(radius * SHOWN_WIDTH)),
  parse: (px: number): number => px / SHOWN_WIDTH,
};
