import type { Upload } from "@/server/study/uploads";

/** The upload that a raw PUT request carries; name and note stand in the address. */
export function uploadOf(request: Request, query: URLSearchParams): Upload {
  const length = Number(request.headers.get("content-length"));
  return {
    body: request.body,
    bytes: Number.isFinite(length) && length > 0 ? length : null,
    fileName: query.get("name")?.slice(0, 200) || "file",
    note: (query.get("note") ?? "").trim().slice(0, 500),
  };
}
