/** A frame's name without its file's ending. */
export const frameName = (file: string): string => file.replace(/\.[^.]+$/, "");
