import type { Upload } from "@/server/studies";

/** The upload that a raw PUT request carries; name and note stand in the address. */
export function uploadOf(request: Request): Upload {
  const { searchParams } = new URL(request.url);
  const length = Number(request.headers.get("content-length"));
  return {
    body: request.body,
    bytes: Number.isFinite(length) && length > 0 ? length : null,
    fileName: (searchParams.get("name") ?? "file").slice(0, 200),
    note: (searchParams.get("note") ?? "").trim().slice(0, 500),
  };
}
