/** A small synthesiser that stands in for an instrument: soft held or struck chords beside the music. */

interface Voice {
  gain: GainNode;
  oscillators: OscillatorNode[];
}

let context: AudioContext | null = null;
let held: Voice | null = null;

const attackSeconds = 0.03;
const releaseSeconds = 0.25;
/** Overtones of a soft reed: level of each harmonic. */
const harmonics = [1, 0.35, 0.18, 0.07];
const wholeLevel = 0.16;

function start(pitches: readonly number[], level: number): { voice: Voice; at: AudioContext } {
  const at = (context ??= new AudioContext());
  void at.resume();
  const gain = at.createGain();
  gain.gain.setValueAtTime(0, at.currentTime);
  gain.gain.linearRampToValueAtTime(
    (wholeLevel * level) / Math.sqrt(pitches.length),
    at.currentTime + attackSeconds,
  );
  const tone = at.createBiquadFilter();
  tone.type = "lowpass";
  tone.frequency.value = 2200;
  gain.connect(tone).connect(at.destination);
  const wave = at.createPeriodicWave(
    new Float32Array(harmonics.length + 1),
    Float32Array.from([0, ...harmonics]),
  );
  const oscillators = pitches.map((pitch) => {
    const oscillator = at.createOscillator();
    oscillator.setPeriodicWave(wave);
    oscillator.frequency.value = 440 * 2 ** ((pitch - 69) / 12);
    oscillator.connect(gain);
    oscillator.start();
    return oscillator;
  });
  return { voice: { gain, oscillators }, at };
}

function release({ gain, oscillators }: Voice, when: number): void {
  gain.gain.cancelScheduledValues(when);
  gain.gain.setTargetAtTime(0, when, releaseSeconds / 3);
  for (const oscillator of oscillators) oscillator.stop(when + releaseSeconds * 2);
}

/** Sounds MIDI pitches once, for so many seconds. */
export function strike(pitches: readonly number[], seconds = 1.2, level = 1): void {
  if (pitches.length === 0) return;
  const { voice, at } = start(pitches, level);
  release(voice, at.currentTime + seconds);
}

/** Holds MIDI pitches until others are held, or none. */
export function hold(pitches: readonly number[], level = 0.7): void {
  if (held && context) release(held, context.currentTime);
  held = pitches.length > 0 ? start(pitches, level).voice : null;
}
