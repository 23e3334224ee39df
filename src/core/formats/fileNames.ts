/** The name of a file without what says its format. */
export const withoutExtension = (fileName: string): string => fileName.replace(/\.[a-z0-9]{2,4}$/i, "");
