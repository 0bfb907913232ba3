/** The media query that says whether a display goes beyond white. */
export const GOES_BEYOND_WHITE = "(dynamic-range: high)";
