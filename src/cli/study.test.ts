/** The study command on a data folder of its own, with the real routes and the real work behind them. */
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { studyStateSchema } from "@/models/studyState";
import { pieceWav } from "@/server/testing/helpers";
import { testServer } from "@/server/testing/testServer";
import { study } from "./study";
import { ownCall } from "./studyServer";
import { GivenUp } from "./terminal";
import { keptTerminal } from "./testTerminal";

testServer();
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(path.join(tmpdir(), "plain-mirror-"));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const onOwnServer = study(async () => ({ call: await ownCall(), end: () => Promise.resolve() }));

/** What the command prints, says, or gives up with. */
async function typed(...words: string[]): Promise<{ out: string; said: string; gaveUp: string | null }> {
  const { terminal, written } = keptTerminal();
  let gaveUp: string | null = null;
  try {
    await onOwnServer(words, terminal);
  } catch (error) {
    if (!(error instanceof GivenUp)) throw error;
    gaveUp = error.message;
  }
  return { out: written.stdout, said: written.stderr, gaveUp };
}

it("makes a study, adds a version, says what it matches at, reports, saves and opens it", async () => {
  const file = async (name: string, bytes: Uint8Array) => {
    const place = path.join(folder, name);
    await writeFile(place, bytes);
    return place;
  };
  const reference = await file("render 0.wav", pieceWav({ seconds: 6, seed: 31 }));
  const quieter = await file("render 1.wav", pieceWav({ seconds: 6, seed: 32, gainDb: -6 }));
  const made = await typed("make", reference, "--title", "Night Ferry");
  expect(made.said).toMatch(/^render 0\.wav: \d+\.\d\d BPM/);
  const id = made.out.trim();
  expect(id).toMatch(/^[0-9a-f]{16}$/);
  const added = await typed("add", "Night Ferry", quieter, "--note", "too quiet");
  expect(added.out).toMatch(/^version 1 \(too quiet\): match \d+/);
  expect((await typed("add", "Night Ferry", quieter)).out).toMatch(/already here as version 1/);
  const json = path.join(folder, "state.json");
  const stateOf = async (name: string) => {
    expect((await typed("match", name, "--json", json)).gaveUp).toBeNull();
    return studyStateSchema.parse(JSON.parse(await readFile(json, "utf8")));
  };
  const state = await stateOf(id);
  const [version] = state.versions;
  expect(state).toMatchObject({ id, title: "Night Ferry", best: 1, working: false });
  expect(added.out).toContain(`match ${Math.round(version!.match!)}`);
  expect(version!.aspects.loudness!).toBeLessThan(version!.aspects.tempo!);
  const lines = (await typed("match", id)).out.trim().split("\n");
  expect(lines[0]).toBe(added.out.trim());
  expect(lines.slice(1).some((line) => /^ +\d+ {2}loudness$/.test(line))).toBe(true);
  const { out: report } = await typed("report", "Night Ferry");
  expect(report).toMatch(/^# Night Ferry/);
  expect(report).toContain(`**Match ${Math.round(version!.match!)} of 100**`);

  const zip = path.join(folder, "ferry.zip");
  expect((await typed("save", id, "--out", zip)).gaveUp).toBeNull();
  const other = (await typed("open", zip)).out.trim();
  expect((await stateOf(other)).versions[0]!.match).toBe(version!.match);
  expect((await typed("list")).out.trim().split("\n").sort()).toEqual(
    [`${id}  Night Ferry`, `${other}  Night Ferry`].sort(),
  );
  // Two of one name: the command asks which.
  expect((await typed("match", "Night Ferry")).gaveUp).toContain(other);
}, 90_000);

it("ends with one sentence on what cannot be done", async () => {
  expect((await typed()).gaveUp).toMatch(/^Usage: study list/);
  expect((await typed("make")).gaveUp).toMatch(/^Usage/);
  expect((await typed("list", "--frob")).gaveUp).toMatch(/^Usage/);
  expect((await typed("constructor", "x")).gaveUp).toMatch(/^Usage/);
  expect((await typed("match", "Nobody")).gaveUp).toMatch(/no study “Nobody”/);
  expect((await typed("make", path.join(folder, "none.wav"))).gaveUp).toMatch(/cannot be read/);
  expect((await typed("open", "study.tar")).gaveUp).toMatch(/no archive/);
  const letter = path.join(folder, "letter.wav");
  await writeFile(letter, "There is no sound in this letter at all, only words.");
  expect((await typed("make", letter)).gaveUp).toMatch(/not an audio file|no audio|cannot be read/i);
});
