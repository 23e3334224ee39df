/**
 * In front of every page: pages are given only under the server's own names, and with a policy under
 * which nothing but the application's own scripts runs. Routes guard themselves (`server/http.ts`):
 * what passes through here would have its body cut.
 */
import { NextResponse, type NextRequest } from "next/server";
import { isOwnHost } from "./server/hosts";
import { isAdmitted, passwordHeaders, passwordSentence } from "./server/password";

const isDevelopment = process.env.NODE_ENV === "development";

function policy(nonce: string): string {
  return [
    "default-src 'self'",
    // The stretching package compiles WebAssembly in the audio thread.
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'${isDevelopment ? " 'unsafe-eval'" : ""}`,
    // Positions on the mirror line are set as style attributes.
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    `connect-src 'self'${isDevelopment ? " ws:" : ""}`,
    "worker-src 'self' blob:",
    "media-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join("; ");
}

/** Whether an address can be read at all: Next answers one that cannot with an error of its own. */
function isReadable(pathname: string): boolean {
  try {
    decodeURIComponent(pathname);
    return true;
  } catch {
    return false;
  }
}

export function proxy(request: NextRequest): NextResponse {
  if (!isReadable(request.nextUrl.pathname)) {
    return NextResponse.json(
      { refusal: { code: "not-found", sentence: "There is nothing at this address." } },
      { status: 404 },
    );
  }
  if (!isOwnHost(request.headers.get("host"))) {
    return new NextResponse("Plain Mirror answers only under its own name; see PLAIN_MIRROR_HOSTS.", {
      status: 403,
    });
  }
  if (!isAdmitted(request.headers)) {
    return new NextResponse(passwordSentence, { status: 401, headers: passwordHeaders });
  }
  const nonce = Buffer.from(crypto.randomUUID()).toString("base64");
  const headers = new Headers(request.headers);
  const contentSecurityPolicy = policy(nonce);
  headers.set("x-nonce", nonce);
  // Next reads the nonce for its own scripts from here.
  headers.set("Content-Security-Policy", contentSecurityPolicy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set("Content-Security-Policy", contentSecurityPolicy);
  response.headers.set("X-Content-Type-Options", "nosniff");
  response.headers.set("Referrer-Policy", "same-origin");
  return response;
}

export const config = {
  matcher: [
    "/((?!api/|_next/static|_next/image|listening/|favicon).*)",
    // Of routes only addresses with bytes that no address of theirs has.
    "/api/(.*%[089a-fA-F].*)",
  ],
};
