/** Under which a shoot's folder for results is kept among the settings. */
export const resultFolderKey = (shoot: string): string => `results of ${shoot}`;
