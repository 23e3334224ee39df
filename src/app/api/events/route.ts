import { listen } from "@/server/queue";

export const dynamic = "force-dynamic";

/** Longest silence on the stream; browsers and proxies close what says nothing. */
const heartbeatMs = 15_000;

/** Server-sent events: what becomes of all analyses, by file. Pages pick out the files they show. */
export function GET(request: Request) {
  const encoder = new TextEncoder();
  let stop = () => {};
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const unlisten = listen((news) => send(`data: ${JSON.stringify(news)}\n\n`));
      const heartbeat = setInterval(() => send(": still here\n\n"), heartbeatMs);
      stop = () => {
        clearInterval(heartbeat);
        unlisten();
      };
      send("retry: 1000\n\n");
      request.signal.addEventListener("abort", stop);
    },
    cancel: () => stop(),
  });
  return new Response(body, {
    headers: { "Content-Type": "text/event-stream", "Cache-Control": "no-cache, no-transform" },
  });
}
