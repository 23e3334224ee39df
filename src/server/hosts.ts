/**
 * Under which names the server answers. A foreign name that was pointed at this machine (DNS
 * rebinding) gets nothing: neither pages nor events nor sound.
 */

/** Names of this server: this machine, and those in PLAIN_MIRROR_HOSTS. */
const ownNames = (): string[] => [
  "localhost",
  "127.0.0.1",
  "[::1]",
  ...(process.env.PLAIN_MIRROR_HOSTS ?? "")
    .split(",")
    .map((name) => name.trim().toLowerCase())
    .filter(Boolean),
];

export const isOwnHost = (host: string | null): boolean =>
  host !== null && ownNames().includes(host.replace(/:\d{1,5}$/, "").toLowerCase());

/** Whether a request that changes something comes from the application's own pages. */
export function comesFromOwnPages(headers: Headers): boolean {
  const host = headers.get("host");
  const origin = headers.get("origin");
  return isOwnHost(host) && (origin === `http://${host}` || origin === `https://${host}`);
}
