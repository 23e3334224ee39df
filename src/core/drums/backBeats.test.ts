/** Back-beats under kicks, in curves as the model gives them for four to the floor. */
import type { Grid } from "../grid/grid";
import { backBeatsUnderKicks } from "./backBeats";
import type { DrumActivations } from "./network";
import { peaksOf } from "./peakPicking";
import { drumVoices, voiceIndex, type DrumVoice } from "./voices";

const framesPerSecond = 100;
const bars = 12;
const curves = drumVoices.length + 1;
const grid = (beatsPerBar = 4, barOne = 0): Grid => ({
  beats: Array.from({ length: bars * 4 + 1 }, (_, i) => 0.5 + 0.5 * i),
  barOne,
  beatsPerBar,
  steady: true,
  bpm: 120,
});

/** @param says what a curve says at each kick: probability by voice and beat of the file. */
function heard(says: (beat: number) => Partial<Record<DrumVoice, number>>, kick = 0.95) {
  const frames = (bars * 2 + 2) * framesPerSecond;
  const activations: DrumActivations = {
    probabilities: new Float32Array(frames * curves),
    velocities: new Float32Array(frames * curves).fill(0.6),
    curves,
  };
  for (let beat = 0; beat < bars * 4; beat++) {
    const frame = Math.round((0.5 + 0.5 * beat) * framesPerSecond);
    activations.probabilities[frame * curves + voiceIndex.kick] = kick;
    for (const [voice, probability] of Object.entries(says(beat)))
      activations.probabilities[(frame + 1) * curves + voiceIndex[voice as DrumVoice]] = probability;
  }
  return activations;
}
const found = (own: DrumActivations, by = grid()) =>
  backBeatsUnderKicks(peaksOf(own, framesPerSecond), own, framesPerSecond, by);
/** Far too little by itself: one in twelve. */
const faint = 0.08;
const nothing = 0.0005;
const onTwoAndFour = (beat: number) => (beat % 2 === 1 ? faint : nothing);

describe("back-beats under kicks", () => {
  it("are heard where kicks on two beats say more of a snare than the others do", () => {
    const strokes = found(heard((beat) => ({ snare: onTwoAndFour(beat) })));
    // A frame behind the kick, where the curve stands.
    strokes.forEach(({ time }, i) => expect(time).toBeCloseTo(1.01 + i, 3));
    for (const { voice, confidence } of strokes) {
      expect(voice).toBe("snare");
      expect(confidence).toBeGreaterThan(0.8);
    }
  });

  it("are told stroke by stroke: one that is left out is not heard", () => {
    const strokes = found(heard((beat) => ({ snare: beat === 13 ? nothing : onTwoAndFour(beat) })));
    const left = strokes.find(({ time }) => Math.abs(time - 7) < 0.03)!;
    expect(left.confidence).toBeLessThan(0.1);
    expect(strokes.filter(({ confidence }) => confidence > 0.5)).toHaveLength(bars * 2 - 1);
  });

  it("are heard where only some of the bars have them, and where bars are counted from another beat", () => {
    const some = heard((beat) => ({ clap: beat >= 16 ? onTwoAndFour(beat) : nothing }));
    expect(found(some).filter(({ confidence }) => confidence > 0.5)).toHaveLength(16);
    const late = found(
      heard((beat) => ({ snare: onTwoAndFour(beat) })),
      grid(4, 1),
    );
    expect(late.filter(({ confidence }) => confidence > 0.5)).toHaveLength(bars * 2);
  });

  it("are of the voice that is heard best", () => {
    const own = heard((beat) => ({ snare: onTwoAndFour(beat) / 4, clap: onTwoAndFour(beat) }));
    expect(new Set(found(own).map(({ voice }) => voice))).toEqual(new Set(["clap"]));
  });

  it("are none where all kicks say the same, however much", () => {
    for (const same of [nothing, faint, 0.4]) expect(found(heard(() => ({ snare: same })))).toEqual([]);
    // Now and then one says more, on either beat.
    expect(found(heard((beat) => ({ snare: beat % 5 === 0 ? faint : nothing })))).toEqual([]);
  });

  it("are not looked for in other metres, or without kicks that are sure", () => {
    const own = heard((beat) => ({ snare: onTwoAndFour(beat) }));
    expect(found(own, grid(3))).toEqual([]);
    expect(found(heard((beat) => ({ snare: onTwoAndFour(beat) }), 0.3))).toEqual([]);
  });
});
