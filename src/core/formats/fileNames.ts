/** The name of a file without what says its format. */
export const withoutExtension = (fileName: string): string => fileName.replace(/\.[a-z0-9]{2,4}$/i, "");

/** Whether a name ends like that of a sound file that can be read here. */
export const isAudioName = (fileName: string): boolean =>
  /\.(wav|wave|aif|aiff|aifc|flac|mp3|ogg|oga|opus|m4a|aac)$/i.test(fileName) && !fileName.startsWith(".");
