/** The outside decoder, played by small programs that answer as it does, and as it should not. */
import { chmod, mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { limits } from "@/core/formats/limits";
import { decodeWithFfmpeg, ffmpegStream, hasFfmpeg } from "./ffmpeg";

let folder: string;
const ownPath = process.env.PATH;
beforeEach(async () => {
  folder = await mkdtemp(path.join(tmpdir(), "plain-mirror-"));
  // Nothing but what is put here, and what runs it.
  process.env.PATH = folder;
});
afterEach(async () => {
  process.env.PATH = ownPath;
  await rm(folder, { recursive: true, force: true });
});

/** Puts a program there that runs some JavaScript. */
async function program(name: "ffmpeg" | "ffprobe", body: string): Promise<void> {
  const place = path.join(folder, name);
  await writeFile(place, `#!${process.execPath}\n${body}\n`);
  await chmod(place, 0o755);
}
const code = async (answer: string) => {
  await program("ffprobe", `process.stdout.write(${JSON.stringify(answer)})`);
  const outcome = await ffmpegStream("song.m4a");
  return outcome.ok ? outcome.value : outcome.refusal.code;
};

describe("whether it is installed", () => {
  it("is told by asking it", async () => {
    expect(await hasFfmpeg()).toBe(false);
    await program("ffmpeg", "process.exit(0)");
    expect(await hasFfmpeg()).toBe(true);
    await program("ffmpeg", "process.exit(1)");
    expect(await hasFfmpeg()).toBe(false);
  });
});

describe("the first audio stream", () => {
  it("is read from what the program says, whose rates are text", async () => {
    const answer = { streams: [{ sample_rate: "44100", channels: 2, duration: "12.5", codec: "x" }] };
    expect(await code(JSON.stringify(answer))).toEqual({ sample_rate: 44100, channels: 2, duration: 12.5 });
    expect(await code('{"streams":[{"sample_rate":"8000","channels":1}]}')).toEqual({
      sample_rate: 8000,
      channels: 1,
    });
  });

  it.each([
    ["nothing", ""],
    ["no JSON", "Invalid data found when processing input"],
    ["no stream", '{"streams":[]}'],
    ["a stream without channels", '{"streams":[{"sample_rate":"44100"}]}'],
    ["a rate that is none", '{"streams":[{"sample_rate":"N/A","channels":2}]}'],
    ["more channels than can be", '{"streams":[{"sample_rate":"44100","channels":4000}]}'],
    ["a length without end", '{"streams":[{"sample_rate":"44100","channels":2,"duration":"1e300"}]}'],
  ])("is none where the program says %s", async (_, answer) => {
    expect(await code(answer)).toBe("not-audio");
  });

  it("is none where the program fails or is not there", async () => {
    await program("ffprobe", "process.exit(1)");
    expect(await ffmpegStream("song.m4a")).toMatchObject({ ok: false, refusal: { code: "not-audio" } });
    await rm(path.join(folder, "ffprobe"));
    expect((await ffmpegStream("song.m4a")).ok).toBe(false);
  });

  it("is looked for on this disk only", async () => {
    await program(
      "ffprobe",
      `process.stdout.write(JSON.stringify({ streams: [{ sample_rate: "1", channels: process.argv.join(" ").includes("-protocol_whitelist file") ? 1 : 2 }] }))`,
    );
    expect(await ffmpegStream("song.m4a")).toMatchObject({ value: { channels: 1 } });
  });
});

describe("samples", () => {
  const stream = { sample_rate: 44100, channels: 2 };
  /** All that comes, channel by channel. */
  async function decoded(own = stream) {
    const channels: number[][] = Array.from({ length: own.channels }, () => []);
    const outcome = await decodeWithFfmpeg("song.m4a", own, (planes) => {
      planes.forEach((plane, c) => channels[c]!.push(...plane));
      return true;
    });
    return { outcome, channels };
  }
  /** Frames of two channels, i and −i, written in pieces of so many bytes. */
  const frames = (count: number, piece: number, ending = 0) => `
    const bytes = Buffer.alloc(${count} * 8);
    for (let i = 0; i < ${count}; i++) { bytes.writeFloatLE(i, 8 * i); bytes.writeFloatLE(-i, 8 * i + 4); }
    (async () => {
      for (let at = 0; at < bytes.length; at += ${piece}) {
        process.stdout.write(bytes.subarray(at, at + ${piece}));
        await new Promise((resolve) => setTimeout(resolve, 2));
      }
      process.exitCode = ${ending};
    })();`;

  it.each([8, 13, 1000, 4096])(
    "are put together from pieces of %d bytes, whatever they cut",
    async (piece) => {
      const count = piece < 20 ? 30 : 2000;
      await program("ffmpeg", frames(count, piece));
      const { outcome, channels } = await decoded();
      expect(outcome).toEqual({ ok: true, value: { failed: false } });
      const expected = Array.from({ length: count }, (_, i) => i);
      expect(channels[0]).toEqual(expected);
      expect(channels[1]!.map((x) => -x + 0)).toEqual(expected);
    },
  );

  it("that end in the middle of a frame lose that frame only", async () => {
    await program("ffmpeg", `process.stdout.write(Buffer.alloc(8 * 5 + 3))`);
    expect((await decoded()).channels[0]).toHaveLength(5);
  });

  it("that came before the program failed are kept, and it is said", async () => {
    await program("ffmpeg", frames(50, 400, 1));
    const { outcome, channels } = await decoded();
    expect(outcome).toEqual({ ok: true, value: { failed: true } });
    expect(channels[0]).toHaveLength(50);
  });

  it("are refused where none came", async () => {
    await program("ffmpeg", "process.exit(0)");
    expect((await decoded()).outcome).toMatchObject({ ok: false, refusal: { code: "not-audio" } });
    await rm(path.join(folder, "ffmpeg"));
    expect((await decoded()).outcome.ok).toBe(false);
  });

  it("stop when no more are wanted, and the program with them", async () => {
    // It would go on for ever.
    await program("ffmpeg", `setInterval(() => process.stdout.write(Buffer.alloc(8000)), 1)`);
    let taken = 0;
    const outcome = await decodeWithFfmpeg("song.m4a", stream, ([left]) => {
      taken += left!.length;
      return taken < 5000;
    });
    // Stopped on purpose is not failed.
    expect(outcome).toEqual({ ok: true, value: { failed: false } });
    expect(taken).toBeGreaterThanOrEqual(5000);
  });

  it("are asked for at the file's own rate, a little beyond the longest that is taken", async () => {
    await program(
      "ffmpeg",
      `const at = (name) => Number(process.argv[process.argv.indexOf(name) + 1]);
       const own = Buffer.alloc(8); own.writeFloatLE(at("-ar")); own.writeFloatLE(at("-t"), 4); process.stdout.write(own);`,
    );
    const { channels } = await decoded({ sample_rate: 32000, channels: 2 });
    expect(channels).toEqual([[32000], [limits.longestSeconds + 1]]);
  });
});
