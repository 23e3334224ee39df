import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { chordName, readChord, type Chord } from "@/core/harmony/chords";
import { ChordDetail } from "./ChordDetail";

afterEach(cleanup);

describe("a chord in full", () => {
  const open = (name: string, beats = 4) => {
    const done: string[] = [];
    render(
      <ChordDetail
        own={{ startBeat: 16, endBeat: 16 + beats, chord: readChord(name)!, confidence: 0.62 }}
        name="Reference"
        keyOfTrack={{ tonic: 9, mode: "minor" }}
        spelling="sharps"
        beatsPerBar={4}
        canJoin={false}
        onRename={(chord: Chord | null) => done.push(`rename ${chordName(chord)}`)}
        onSplit={() => done.push("split")}
        onJoin={() => done.push("join")}
        onMove={(by) => done.push(`move ${by}`)}
      />,
    );
    const field = screen.getByLabelText(/^Rename/);
    return {
      done,
      rename: (text: string) => {
        fireEvent.change(field, { target: { value: text } });
        fireEvent.blur(field);
      },
    };
  };

  it("says its place, degree, notes and how sure it is", () => {
    open("F");
    const section = screen.getByRole("region", { name: "Chosen chord" });
    expect(section.textContent).toContain("Reference, from 5 : 1, 4 beats");
    expect(section.textContent).toContain("F major: F A C, steps of 4 and 3 semitones; bass F. 62 % sure.");
    expect(section.textContent).toContain("VI");
  });

  it("is renamed in any usual spelling, and not where it stays the same", () => {
    const { done, rename } = open("F");
    rename("Fmaj");
    expect(done).toEqual([]);
    rename("F#m7");
    expect(done).toEqual(["rename F♯m7"]);
  });

  it("refuses a name that is none, and says so", () => {
    const { done, rename } = open("F");
    rename("purple");
    expect(screen.getByRole("alert").textContent).toBe("Unknown chord name.");
    expect(done).toEqual([]);
    rename("G");
    expect(screen.queryByRole("alert")).toBeNull();
    expect(done).toEqual(["rename G"]);
  });

  it("is moved and split; one of a single beat is not split, one without a neighbour not joined", () => {
    const { done } = open("F", 1);
    fireEvent.click(screen.getByLabelText("Start a beat earlier"));
    fireEvent.click(screen.getByLabelText("Start a beat later"));
    expect(done).toEqual(["move -1", "move 1"]);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Split" }).disabled).toBe(true);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Join next" }).disabled).toBe(true);
  });
});
