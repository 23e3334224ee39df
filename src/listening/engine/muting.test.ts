/** What sounds where parts are muted, what it is called, and how it stands in addresses. */
import { listeningPartName, listeningPartOf } from "@/core/formats/chunks";
import { lensParts } from "@/core/lens/parts";
import { monitorFilters } from "./monitorFilter";
import {
  allBut,
  isMutedAlike,
  mutedWords,
  nothingMuted,
  onlyPart,
  sameMuted,
  soundingPart,
  toggled,
  withoutConflict,
} from "./muting";

describe("muted parts", () => {
  it("leave the others of that side, and the whole where there are none", () => {
    const muted = toggled(toggled(nothingMuted, "version", "bass"), "version", "kick");
    expect(soundingPart("everything", muted.version)).toEqual(["snare", "hats", "percussion", "music"]);
    expect(soundingPart("low", muted.version)).toEqual(["snare", "hats", "percussion", "music"]);
    expect(soundingPart("everything", muted.reference)).toBe("whole");
    expect(soundingPart("everything", lensParts)).toEqual([]);
    expect(sameMuted(toggled(toggled(muted, "version", "kick"), "version", "bass"), nothingMuted)).toBe(true);
  });

  it("give way to the stems of an element on the sides that have some", () => {
    const stems = { trackId: "t1", elementId: "e1", name: "Shaker" };
    const muted = onlyPart("percussion", { version: stems });
    expect(listeningPartName(soundingPart("low", muted.version))).toBe("stems.t1.e1");
    expect(listeningPartOf("stems.t1.e1")).toEqual({ trackId: "t1", elementId: "e1" });
    expect(soundingPart("everything", muted.reference)).toEqual(["percussion"]);
    expect(isMutedAlike(muted)).toBe(false);
    expect(mutedWords(muted)).toBe("reference: percussion only, version: stems of Shaker");
    // On both sides it is one element: nothing gives away which is heard.
    const both = onlyPart(null, { reference: { ...stems, trackId: "t0" }, version: stems });
    expect(isMutedAlike(both)).toBe(true);
    expect(sameMuted(both, muted)).toBe(false);
    expect(mutedWords(both)).toBe("stems of Shaker");
    // A part muted after that is muted in the whole.
    expect(toggled(muted, "version", "kick").version).toEqual(["kick"]);
  });

  it.each([
    [nothingMuted, ""],
    [onlyPart("kick"), "kick only"],
    [allBut("kick"), "all but kick"],
    [{ reference: [], version: ["bass"] }, "version: all but bass"],
    [
      { reference: ["kick"], version: ["snare", "hats", "percussion", "music"] },
      "reference: all but kick, version: kick and bass only",
    ],
    [{ reference: lensParts, version: lensParts }, "silence"],
  ] as const)("are told in words: %j", (muted, words) => {
    expect(mutedWords(muted)).toBe(words);
  });

  it("give nothing away in a blind test where both sides sound the same", () => {
    expect([nothingMuted, onlyPart("kick"), allBut("bass")].every(isMutedAlike)).toBe(true);
    expect(isMutedAlike(toggled(nothingMuted, "version", "kick"))).toBe(false);
  });

  it("end where a separated part of the whole is chosen, and end it", () => {
    expect(withoutConflict({ monitorFilter: "percussive" }, "everything")).toEqual({
      monitorFilter: "percussive",
      muted: nothingMuted,
    });
    expect(withoutConflict({ muted: onlyPart("kick") }, "sustained")).toEqual({
      monitorFilter: "everything",
      muted: onlyPart("kick"),
    });
    expect(withoutConflict({ muted: onlyPart("kick") }, "low")).toEqual({ muted: onlyPart("kick") });
    expect(withoutConflict({ monitorFilter: "mono" }, "low")).toEqual({ monitorFilter: "mono" });
  });

  it("stand in addresses in one order, and are read back; what is no part is refused", () => {
    for (const { part } of monitorFilters) expect(listeningPartOf(listeningPartName(part))).toBe(part);
    expect(listeningPartName(["bass", "kick"])).toBe("kick,bass");
    expect(listeningPartOf("kick,bass")).toEqual(["kick", "bass"]);
    expect(listeningPartOf(listeningPartName([]))).toEqual([]);
    for (const wrong of ["", "gong", "kick,gong", "kick,,bass", "bass,bass"])
      expect(listeningPartOf(wrong)).toBeNull();
  });
});
