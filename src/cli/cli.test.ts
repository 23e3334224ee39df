/** The commands as people run them; where it matters in processes of their own. */
import { spawnSync } from "node:child_process";
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { drumsAsWritten, playedDrums, steadyGrid } from "@/core/testing/drums";
import { practiceKit, stroke } from "@/core/drums/kit";
import { writeWav } from "@/core/formats/wav";
import { lensParts } from "@/core/lens/parts";
import { knownMix } from "@/core/testing/knownMix";
import { whiteNoise } from "@/core/testing/signals";
import { decodeFile } from "@/server/decoding/decode";
import { pieceWav } from "@/server/testing/helpers";
import { analyzeOutputSchema } from "./analyzeOutput";
import { runCommand, type CommandName } from "./commands";
import { compareOutputSchema } from "./compareOutput";
import { rankOutputSchema } from "./rankOutput";
import { keptTerminal } from "./testTerminal";

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(path.join(tmpdir(), "plain-mirror-"));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** As it is typed. */
const typed = (command: CommandName, ...options: string[]) =>
  spawnSync("npm", ["run", "--silent", command, "--", ...options], {
    encoding: "utf8",
    env: { ...process.env, NODE_OPTIONS: "", PLAIN_MIRROR_DATA: path.join(folder, "study-data") },
  });
/** The same in this process, which knows the way. */
async function run(command: CommandName, ...options: string[]) {
  const { terminal, written } = keptTerminal();
  const status = await runCommand(command, options, terminal);
  return { status, ...written };
}
const file = async (name: string, bytes: Uint8Array | string) => {
  const place = path.join(folder, name);
  await writeFile(place, bytes);
  return place;
};

it("analyzes a file into the JSON asked for: figures, beats, key, chords and sections", async () => {
  // A minor, F, C, G, a bar each, with clicks on the beats.
  const chords = ["A:min", "F:maj", "C:maj", "G:maj"];
  const { output, labels } = await (async () => {
    const rate = 22050;
    const seconds = 16.5;
    const roots = [57, 53, 48, 55];
    const samples = Float32Array.from({ length: seconds * rate }, (_, i) => {
      const time = i / rate - 0.1;
      const bar = Math.max(0, Math.floor(time / 2)) % 4;
      const sinceBeat = ((time % 0.5) + 0.5) % 0.5;
      const tone = (pitch: number) => Math.sin((2 * Math.PI * 440 * 2 ** ((pitch - 69) / 12) * i) / rate);
      const notes = [0, bar === 0 ? 3 : 4, 7].map(
        (up) => tone(roots[bar]! + up) + 0.4 * tone(roots[bar]! + up + 12),
      );
      return (
        0.06 * notes.reduce((a, b) => a + b, 0) + (sinceBeat < 0.01 && time > 0 ? 0.5 * (i % 2 ? 1 : -1) : 0)
      );
    });
    const json = path.join(folder, "out.json");
    const song = await file("song.wav", writeWav([samples, samples], rate, "int16"));
    const done = typed("analyze", song, "--json", json);
    expect({ status: done.status, stderr: done.stderr }).toEqual({ status: 0, stderr: "" });
    const parsed = analyzeOutputSchema.parse(JSON.parse(await readFile(json, "utf8")));
    return { output: parsed, labels: parsed.chords.map(({ label }) => label.replace(/\/.*$/, "")) };
  })();
  expect(labels.filter((label) => label !== "N").slice(0, 8)).toEqual([...chords, ...chords]);
  // The loop alone does not say which of the two it is.
  expect(["A minor", "C major"]).toContain(`${output.key!.tonic} ${output.key!.mode}`);
  const { confidence, alternatives } = output.key!;
  expect(confidence + alternatives.reduce((sum, other) => sum + other.confidence, 0)).toBeLessThanOrEqual(
    1.001,
  );
  expect(Math.abs(output.tuningCents)).toBeLessThan(3);
  output.chords.slice(1).forEach(({ start }, i) => expect(start).toBeCloseTo(output.chords[i]!.end, 6));
  expect(output.sections.length).toBeGreaterThan(0);
  expect(output.sections.every(({ start, end }) => end > start)).toBe(true);
  expect(output).toMatchObject({ durationSeconds: 16.5, sampleRate: 22050, channels: 2 });
  expect([60, 120, 240]).toContain(Math.round(output.tempo!.bpm));
  expect(output.loudness.integratedLufs).toBeLessThan(0);
  expect(output.tone.bands).toHaveLength(31);
  expect(output.tone.bands.map(({ hz }) => Math.round(hz))).toEqual(expect.arrayContaining([63, 1000]));
  expect(output.stereo.bands).toHaveLength(10);
  expect(output.dynamics.clippedRuns).toEqual([]);
  expect(output.dynamics.space.map(({ fromHz }) => fromHz)).toEqual([150, 600, 2400]);
  // Notes come in order, each ending before the next begins.
  const { notes } = output.bass;
  notes.slice(1).forEach(({ start }, i) => expect(start).toBeGreaterThanOrEqual(notes[i]!.end - 1e-3));
  output.beats.slice(1).forEach((beat, i) => expect(beat).toBeGreaterThan(output.beats[i]!));
  expect(output.downbeats.every((time) => output.beats.includes(time))).toBe(true);
});

it("compares two files: one that is only quieter is off in loudness only", async () => {
  const reference = await file("reference.wav", pieceWav({ seconds: 10 }));
  const quieter = await file("quieter.wav", pieceWav({ seconds: 10, gainDb: -3, format: "float32" }));
  const other = compareOutputSchema.parse(JSON.parse((await run("compare", reference, quieter)).stdout));
  const scores = Object.fromEntries(other.aspects.map((aspect) => [aspect.name, aspect.score]));
  expect(scores.loudness).toBeCloseTo(100 * 2 ** (-2.5 / 2), 0);
  for (const name of ["tempo", "dynamics", "tone"]) expect(scores[name]).toBeGreaterThan(99.9);
  expect(other.equaliser).toMatchObject({ moves: [], wrongCure: [] });
  expect(other.equaliser.gapBeforeDb).toBeLessThan(0.01);
  const [span] = other.coverage;
  expect(span!.versionStart).toBeCloseTo(span!.referenceStart, 6);
  expect(span!.referenceEnd - span!.referenceStart).toBeGreaterThan(5);
  expect(other).toMatchObject({ intended: { semitones: 0, tempoRatio: 1 }, found: { tempoRatio: 1 } });
});

it("hears drum hits, and what of them is missing in a version", async () => {
  const grid = steadyGrid(120, 4, 0.2);
  const written = { kick: ["X...X...X...X..."], snare: ["....X.......X..."], hat: ["x.x.x.x.x.x.x.x."] };
  const wav = (goes: (voice: string, beat: number) => boolean) => {
    const drums = drumsAsWritten(written, grid, {
      alter: (hit, beat) => (goes(hit.voice, beat) ? null : hit),
    });
    const samples = playedDrums(drums, 8.5, 32000, grid);
    return writeWav([samples, samples], 32000, "int16");
  };
  const whole = await file(
    "drums.wav",
    wav(() => false),
  );
  const { drums, hits } = analyzeOutputSchema.parse(JSON.parse((await run("analyze", whole)).stdout));
  const typical = hits.find(({ voice }) => voice === "kick")!;
  expect(typical).toMatchObject({ kind: "kick-1", count: 16 });
  // The practice kit's kick falls to 48 Hz.
  expect(Math.abs(typical.fundamentalHz! - 48)).toBeLessThan(2);
  const kicks = drums.hits.filter(({ voice }) => voice === "kick");
  expect(kicks).toHaveLength(16);
  kicks.forEach(({ time, velocity }, i) => {
    expect(Math.abs(time - 0.2 - i / 2)).toBeLessThan(0.005);
    expect(velocity).toBeGreaterThan(0.4);
  });
  // Every fourth kick is gone.
  const fewer = await file(
    "fewer.wav",
    wav((voice, beat) => voice === "kick" && beat % 4 === 2),
  );
  const { aspects } = compareOutputSchema.parse(JSON.parse((await run("compare", whole, fewer)).stdout));
  const scoreOf = (name: string) => aspects.find((aspect) => aspect.name === name)!.score!;
  expect(scoreOf("pattern")).toBeGreaterThan(85);
  expect(scoreOf("pattern")).toBeLessThan(97);
  expect(scoreOf("timing")).toBeGreaterThan(97);
});

it("takes what is intended into account", async () => {
  const reference = await file("reference.wav", pieceWav({ seconds: 12 }));
  const faster = await file("faster.wav", pieceWav({ seconds: 12, bpm: 126, seed: 2 }));
  const { aspects, intended, found } = compareOutputSchema.parse(
    JSON.parse((await run("compare", reference, faster, "--tempo", "126")).stdout),
  );
  expect(aspects.find(({ name }) => name === "tempo")!.score).toBeGreaterThan(99);
  for (const { tempoRatio } of [intended, found]) expect(tempoRatio).toBeCloseTo(126 / 120, 3);
  expect((await run("compare", reference, faster, "--tempo", "fast")).status).toBe(2);
});

it("ranks one-shots against another, the same first, and says what would mend them", async () => {
  const shot = (pitch: number) => {
    const kick = { ...practiceKit.kick, tone: { ...practiceKit.kick.tone, pitch } };
    // As short as one-shots are.
    const sound = stroke(kick, 44100, () => 0.5).subarray(0, 22050);
    return writeWav([sound, sound], 44100, "int16");
  };
  const target = await file("target.wav", shot(48));
  const offered = [await file("higher.wav", shot(57)), await file("same.wav", shot(48))];
  const done = await run("rank", target, ...offered, "--voice", "kick");
  expect(done.stderr).toBe("");
  const { candidates } = rankOutputSchema.parse(JSON.parse(done.stdout));
  expect(candidates.map((own) => own.file)).toEqual(["same.wav", "higher.wav"]);
  expect(candidates[0]!.score).toBeGreaterThan(99);
  expect(candidates[1]!.suggestion!.semitones).toBeCloseTo(-3, 0);
  expect((await run("rank", target, "--voice", "gong", offered[0]!)).status).toBe(2);
});

it("lifts an element out of a mix, and everything but it; compares elements by what was lifted", async () => {
  const rate = 44100;
  const wav = ({ samples }: { samples: Float32Array }) => writeWav([samples, samples], rate, "int24");
  const plain = knownMix({ beats: 12 });
  const song = await file("song.wav", wav(plain));
  const softer = await file("softer.wav", wav(knownMix({ beats: 12, gains: { kick: 0.5 } })));
  const out = path.join(folder, "kick.wav");
  const rest = path.join(folder, "rest.wav");
  for (const [target, ...more] of [[out], [rest, "--rest"]] as const) {
    const done = await run("lens", song, "--element", "kick", "--out", target, ...more);
    expect({ status: done.status, stderr: done.stderr }).toEqual({ status: 0, stderr: "" });
  }
  const read = async (from: string) => {
    const decoded = await decodeFile(from);
    if (!decoded.ok) throw new Error("not readable");
    return decoded.value.signal.channels[0]!;
  };
  const [kick, others] = [await read(out), await read(rest)];
  const energy = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);
  expect(kick).toHaveLength(plain.samples.length);
  // Both add up to the mix; the one is the kick, the other is not.
  expect(energy(plain.samples.map((x, i) => x - kick[i]! - others[i]!))).toBeLessThan(1e-5 * energy(kick));
  const left = energy(plain.parts.kick.map((x, i) => x - kick[i]!)) / energy(plain.parts.kick);
  expect(left).toBeLessThan(0.15);

  const { elements, recreatedBars, next } = compareOutputSchema.parse(
    JSON.parse((await run("compare", song, softer)).stdout),
  );
  expect(recreatedBars).toBeGreaterThan(2);
  const gapOf = (name: string) =>
    elements.find((own) => own.name === name)!.aspects.find((own) => own.name === "level")!.gap!;
  // Half as loud beside the others, which stay where they are.
  expect(gapOf("kick")).toBeLessThan(-4.5);
  expect(gapOf("kick")).toBeGreaterThan(-8);
  // In three bars some of the kick is left in the snares that are struck with it.
  expect(Math.abs(gapOf("snare") - gapOf("hats"))).toBeLessThan(1.5);
  expect(elements.map(({ kind }) => kind)).toEqual([...lensParts]);
  // What to do about it is said.
  const wanted = next.find(({ title }) => /^Kick \d\.\d dB too quiet$/.test(title))!;
  expect(wanted.element).toBe("kick");
  expect(wanted.points).toBeGreaterThan(0.1);

  const hiss = whiteNoise(-30, 1.5, rate);
  const noise = await file("noise.wav", writeWav([hiss, hiss], rate, "int16"));
  const silent = await run("lens", noise, "--element", "percussion", "--out", out);
  expect(silent).toMatchObject({
    status: 0,
    stderr: "No percussion was found in this file: it is silent.\n",
  });
  expect(energy(await read(out))).toBe(0);
  expect((await run("lens", song, "--element", "gong", "--out", out)).stderr).toMatch(
    /^Usage: lens FILE --element kick\|/,
  );
  for (const nowhere of [folder, path.join(folder, "gone", "kick.wav")])
    expect(await run("lens", song, "--element", "kick", "--out", nowhere)).toMatchObject({
      status: 2,
      stderr: `${nowhere}: this file cannot be written.\n`,
    });
}, 180_000);

it("ends with 2 and one sentence on what cannot be read", async () => {
  const letter = await file("letter.wav", "There is no sound in this letter at all, only words.");
  const refused = typed("analyze", letter);
  expect(refused.status).toBe(2);
  expect(refused.stdout).toBe("");
  expect(refused.stderr.trim().split("\n")).toHaveLength(1);
  expect(refused.stderr).toMatch(/letter\.wav: This is not an audio file/);
  expect(await run("compare", letter)).toMatchObject({
    status: 2,
    stderr: expect.stringMatching(/^Usage: compare REFERENCE VERSION/) as string,
  });
});

it("works on a data folder without a server, and says where none answers", async () => {
  expect(typed("study", "match", "Nobody")).toMatchObject({
    status: 2,
    stdout: "",
    stderr: "There is no study “Nobody”. “study list” names them.\n",
  });
  expect(await run("study", "list", "--server", "http://127.0.0.1:9")).toEqual({
    status: 2,
    stdout: "",
    stderr: "No server answers at http://127.0.0.1:9.\n",
  });
});
