/** The bytes that a base64 text stands for. */
export function bytesOfBase64(text: string): Uint8Array<ArrayBuffer> {
  const letters = atob(text);
  const bytes = new Uint8Array(letters.length);
  for (let i = 0; i < bytes.length; i++) bytes[i] = letters.charCodeAt(i);
  return bytes;
}
