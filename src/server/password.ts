/**
 * The password that PLAIN_MIRROR_PASSWORD sets, for a server that others can reach. Browsers ask for it
 * themselves and send it along with everything after that (RFC 7617, "The 'Basic' HTTP Authentication
 * Scheme", 2015).
 */
import { createHash, timingSafeEqual } from "node:crypto";

const digest = (text: string) => createHash("sha256").update(text).digest();

/** The header by which a request shows the password; the name before it does not matter. */
export const authorization = (password: string): string =>
  `Basic ${Buffer.from(`:${password}`, "utf8").toString("base64")}`;

/** What a request shows; null where it shows nothing. */
function shownIn(headers: Headers): string | null {
  const [, coded] = /^Basic\s+([A-Za-z0-9+/=]+)$/i.exec(headers.get("authorization") ?? "") ?? [];
  if (coded === undefined) return null;
  const text = Buffer.from(coded, "base64").toString("utf8");
  return text.slice(text.indexOf(":") + 1);
}

/** Whether a request may be answered: no password is set, or it shows the right one. */
export function isAdmitted(headers: Headers): boolean {
  const password = process.env.PLAIN_MIRROR_PASSWORD;
  if (!password) return true;
  const shown = shownIn(headers);
  // Digests are as long as one another, so that the time taken says nothing.
  return shown !== null && timingSafeEqual(digest(shown), digest(password));
}

/** Makes a browser ask for the password. */
export const passwordHeaders = { "WWW-Authenticate": 'Basic realm="Plain Mirror", charset="UTF-8"' } as const;

export const passwordSentence = "Plain Mirror asks for its password here.";
