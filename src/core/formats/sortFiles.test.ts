import { countingOrder, guessRoles } from "./sortFiles";

describe("files that come together", () => {
  it.each([
    [
      ["Copper Kites (reference).wav", "kites v1.wav", "kites_v2.wav"],
      false,
      ["reference", "version", "version"],
    ],
    // Nothing says which is the reference: the one that is not called a version.
    [["rebuild 1.wav", "The Slow Ferries - Paper Tram.flac"], false, ["version", "reference"]],
    [["mix 1.wav", "mix 2.wav"], false, ["reference", "version"]],
    [["kick.wav", "BASS_stem.wav", "Lead Vox.aif"], true, ["stem", "stem", "stem"]],
    [["drums mix 3.wav"], true, ["version"]],
    [["notes.txt", ".hidden.wav", "render.wav"], true, ["leave out", "leave out", "version"]],
    [["ref A.wav", "ref B.wav"], false, ["reference", "version"]],
    [["night.wav", "day.wav"], true, ["version", "version"]],
    // A word within another is none.
    [["bassoon song.wav", "kickstart.wav"], true, ["version", "version"]],
  ] as const)("%j (reference there: %s)", (names, hasReference, roles) => {
    expect(guessRoles(names, hasReference)).toEqual(roles);
  });

  it("are counted as people count", () => {
    const names = ["mix 10.wav", "Mix 2.wav", "mix.wav", "mix 1.wav"];
    expect(countingOrder(names).map((i) => names[i])).toEqual([
      "mix.wav",
      "mix 1.wav",
      "Mix 2.wav",
      "mix 10.wav",
    ]);
  });
});
