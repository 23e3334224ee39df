/** Requests of the pages to their server; refusals come back as values with their sentence. */
import { z } from "zod";
import { patchSchema } from "@/core/edits/patch";
import { refuse, sentenceOf, success, type Outcome, type Refusal } from "@/core/outcome";

const refusalSchema = z.object({
  refusal: z.object({ code: z.string(), sentence: z.string(), remedy: z.string().optional() }),
});

const unreachable = () =>
  refuse(
    "cut-off-upload",
    "Can't reach the server.",
    "Check that Plain Mirror is still running, then try again.",
  );

function outcomeOf(ok: boolean, body: unknown): Outcome<unknown> {
  if (ok) return success(body);
  const parsed = refusalSchema.safeParse(body);
  return parsed.success ? { ok: false, refusal: parsed.data.refusal as Refusal } : unreachable();
}

/** Sends JSON and reads the answer through a schema. */
export async function send<T = unknown>(
  method: "GET" | "POST" | "PUT" | "DELETE",
  address: string,
  body?: unknown,
  schema?: z.ZodType<T>,
): Promise<Outcome<T>> {
  try {
    const response = await fetch(address, {
      method,
      ...(body === undefined
        ? {}
        : { body: JSON.stringify(body), headers: { "Content-Type": "application/json" } }),
    });
    const outcome = outcomeOf(response.ok, await response.json().catch(() => null));
    if (!outcome.ok) return outcome;
    return success(schema ? schema.parse(outcome.value) : (outcome.value as T));
  } catch {
    return unreachable();
  }
}

const addedSchema = z.object({
  studyId: z.string(),
  itemId: z.string(),
  number: z.number().nullable(),
  recognised: z.string().optional(),
  edit: z.object({ id: z.number(), label: z.string(), patch: patchSchema, sequence: z.number() }).optional(),
});

export type Added = z.infer<typeof addedSchema>;

/** Uploads a file as a raw body, with progress 0–1. `cancel` of the returned handle stops it. */
export function upload(
  address: string,
  file: File,
  onProgress: (done: number) => void,
): { finished: Promise<Outcome<Added>>; cancel: () => void } {
  const request = new XMLHttpRequest();
  const finished = new Promise<Outcome<Added>>((resolve) => {
    request.upload.onprogress = (event) => {
      if (event.lengthComputable) onProgress(event.loaded / event.total);
    };
    request.onload = () => {
      let body: unknown = null;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        // Left null: an answer that is no JSON is treated as no answer.
      }
      const outcome = outcomeOf(request.status < 400, body);
      const added = outcome.ok ? addedSchema.safeParse(outcome.value) : null;
      resolve(outcome.ok ? (added?.success ? success(added.data) : unreachable()) : outcome);
    };
    request.onerror = () => resolve(unreachable());
    request.onabort = () => resolve(refuse("cancelled", "The upload was cancelled."));
  });
  request.open("PUT", address);
  request.send(file);
  return { finished, cancel: () => request.abort() };
}

export { sentenceOf };
