declare module "@audio/decode-mp3/meta" {
  export function parseMeta(bytes: Uint8Array): { meta: Record<string, unknown> } | null;
}
declare module "@audio/decode-flac/meta" {
  export function parseMeta(bytes: Uint8Array): { meta: Record<string, unknown> } | null;
}
declare module "@audio/decode-vorbis/meta" {
  export function parseMeta(bytes: Uint8Array): { meta: Record<string, unknown> } | null;
}
declare module "@audio/decode-opus/meta" {
  export function parseMeta(bytes: Uint8Array): { meta: Record<string, unknown> } | null;
}
declare module "@audio/decode-wav/meta" {
  export function parseMeta(bytes: Uint8Array): { meta: Record<string, unknown> } | null;
}
