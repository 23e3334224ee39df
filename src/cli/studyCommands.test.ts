/** The study command on a data folder of its own, with the real routes and the real work behind them. */
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { Writable } from "node:stream";
import { studyStateSchema } from "@/models/studyState";
import { pieceWav } from "@/server/testing/helpers";
import { testServer } from "@/server/testing/testServer";
import { GivenUp, runStudyCommand } from "./studyCommands";
import { ownCall } from "./studyServer";

testServer();
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(path.join(tmpdir(), "plain-mirror-"));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** What a command prints, says, or gives up with. */
async function study(...words: string[]): Promise<{ out: string; said: string; gaveUp: string | null }> {
  let out = "";
  let said = "";
  const output = new Writable({
    write(chunk: Buffer, _encoding, done) {
      out += chunk.toString();
      done();
    },
  });
  try {
    await runStudyCommand(words, {
      print: (line) => (out += `${line}\n`),
      say: (line) => (said += `${line}\n`),
      output,
      connect: async () => ({ call: await ownCall(), end: () => Promise.resolve() }),
    });
    return { out, said, gaveUp: null };
  } catch (error) {
    if (!(error instanceof GivenUp)) throw error;
    return { out, said, gaveUp: error.message };
  }
}

it("makes a study, adds a version, says what it matches at, reports, saves and opens it", async () => {
  const file = async (name: string, bytes: Uint8Array) => {
    const place = path.join(folder, name);
    await writeFile(place, bytes);
    return place;
  };
  const reference = await file("render 0.wav", pieceWav({ seconds: 6, seed: 31 }));
  const quieter = await file("render 1.wav", pieceWav({ seconds: 6, seed: 32, gainDb: -6 }));
  const made = await study("make", reference, "--title", "Night Ferry");
  expect(made.said).toMatch(/^render 0\.wav: \d+\.\d\d BPM/);
  const id = made.out.trim();
  expect(id).toMatch(/^[0-9a-f]{16}$/);
  const added = await study("add", "Night Ferry", quieter, "--note", "too quiet");
  expect(added.out).toMatch(/^version 1 \(too quiet\): match \d+/);
  expect((await study("add", "Night Ferry", quieter)).out).toMatch(/already here as version 1/);
  const json = path.join(folder, "state.json");
  const stateOf = async (name: string) => {
    expect((await study("match", name, "--json", json)).gaveUp).toBeNull();
    return studyStateSchema.parse(JSON.parse(await readFile(json, "utf8")));
  };
  const state = await stateOf(id);
  const [version] = state.versions;
  expect(state).toMatchObject({ id, title: "Night Ferry", best: 1, working: false });
  expect(added.out).toContain(`match ${Math.round(version!.match!)}`);
  expect(version!.aspects.loudness!).toBeLessThan(version!.aspects.tempo!);
  const lines = (await study("match", id)).out.trim().split("\n");
  expect(lines[0]).toBe(added.out.trim());
  expect(lines.slice(1).some((line) => /^ +\d+ {2}loudness$/.test(line))).toBe(true);
  const { out: report } = await study("report", "Night Ferry");
  expect(report).toMatch(/^# Night Ferry/);
  expect(report).toContain(`**Match ${Math.round(version!.match!)} of 100**`);

  const zip = path.join(folder, "ferry.zip");
  expect((await study("save", id, "--out", zip)).gaveUp).toBeNull();
  const other = (await study("open", zip)).out.trim();
  expect((await stateOf(other)).versions[0]!.match).toBe(version!.match);
  expect((await study("list")).out.trim().split("\n").sort()).toEqual(
    [`${id}  Night Ferry`, `${other}  Night Ferry`].sort(),
  );
  // Two of one name: the command asks which.
  expect((await study("match", "Night Ferry")).gaveUp).toContain(other);
}, 90_000);

it("ends with one sentence on what cannot be done", async () => {
  expect((await study()).gaveUp).toMatch(/^Usage: study list/);
  expect((await study("make")).gaveUp).toMatch(/^Usage/);
  expect((await study("list", "--frob")).gaveUp).toMatch(/^Usage/);
  expect((await study("constructor", "x")).gaveUp).toMatch(/^Usage/);
  expect((await study("match", "Nobody")).gaveUp).toMatch(/no study “Nobody”/);
  expect((await study("make", path.join(folder, "none.wav"))).gaveUp).toMatch(/cannot be read/);
  expect((await study("open", "study.tar")).gaveUp).toMatch(/no archive/);
  const letter = path.join(folder, "letter.wav");
  await writeFile(letter, "There is no sound in this letter at all, only words.");
  expect((await study("make", letter)).gaveUp).toMatch(/not an audio file|no audio|cannot be read/i);
});
