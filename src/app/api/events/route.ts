import { reading } from "@/server/http";
import { knownRevisions, listen, type News } from "@/server/jobs/progress";

export const dynamic = "force-dynamic";

/** Longest silence on the stream; browsers and proxies close what says nothing. */
const heartbeatMs = 15_000;

/** Server-sent events: how analyses go, and which studies have changed. Pages pick out what they show. */
export const GET = reading(async ({ request }) => {
  const encoder = new TextEncoder();
  let stop = () => {};
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const tell = (news: News) => send(`data: ${JSON.stringify(news)}\n\n`);
      const unlisten = listen(tell);
      const heartbeat = setInterval(() => send(": still here\n\n"), heartbeatMs);
      stop = () => {
        clearInterval(heartbeat);
        unlisten();
      };
      send("retry: 1000\n\n");
      // Whoever was away hears what it missed.
      knownRevisions().forEach(tell);
      request.signal.addEventListener("abort", stop);
    },
    cancel: () => stop(),
  });
  return new Response(body, {
    headers: { "Content-Type": "text/event-stream", "Cache-Control": "no-cache, no-transform" },
  });
});
