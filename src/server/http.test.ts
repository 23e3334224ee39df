/** Bodies of requests that are too long, broken off or no JSON. */
import { z } from "zod";
import { readJson, readText } from "./http";

const streamed = (parts: string[], breaksOff = false) =>
  new Request("http://localhost/x", {
    method: "POST",
    duplex: "half",
    body: new ReadableStream({
      start(controller) {
        for (const part of parts) controller.enqueue(new TextEncoder().encode(part));
        if (breaksOff) controller.error(new Error("aborted"));
        else controller.close();
      },
    }),
  } as RequestInit);

describe("a body", () => {
  it("is read whole, in whatever pieces it comes", async () => {
    expect(await readText(streamed(["one, ", "two"]), 100)).toEqual({ ok: true, value: "one, two" });
  });

  it("over its limit is refused, also where no length was announced", async () => {
    expect(await readText(streamed(["x".repeat(60), "x".repeat(60)]), 100)).toMatchObject({
      refusal: { code: "too-large" },
    });
  });

  it("that broke off is refused, never taken for a shorter one", async () => {
    const read = await readJson(streamed(['{"a":1}'], true), z.object({ a: z.number() }));
    expect(read).toMatchObject({ refusal: { code: "cut-off-upload" } });
  });

  it("that is no JSON, or another than is asked for, is refused", async () => {
    const schema = z.object({ a: z.number() });
    expect(await readJson(streamed(["{"]), schema)).toMatchObject({ ok: false });
    expect(await readJson(streamed(['{"a":"b"}']), schema)).toMatchObject({ ok: false });
    expect(await readJson(streamed(['{"a":2}']), schema)).toEqual({ ok: true, value: { a: 2 } });
  });
});
