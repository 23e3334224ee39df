/** What both sides are listened to through: chains of the browser's own audio nodes, alike on both. */

/** Ways of listening that filter; parts of the sound come separated from the server. */
export const monitorFilters = [
  { name: "everything", label: "full range", part: "whole" },
  { name: "low", label: "below 100 Hz", part: "whole" },
  { name: "lowOctave", label: "below 100 Hz, an octave up", part: "whole" },
  { name: "lowMid", label: "100 to 600 Hz", part: "whole" },
  { name: "mid", label: "600 Hz to 4 kHz", part: "whole" },
  { name: "high", label: "above 4 kHz", part: "whole" },
  { name: "centre", label: "centre only", part: "whole" },
  { name: "sides", label: "sides only", part: "whole" },
  { name: "mono", label: "mono", part: "whole" },
  { name: "percussive", label: "percussive part", part: "percussive" },
  { name: "sustained", label: "sustained part", part: "sustained" },
] as const;

export type MonitorFilter = (typeof monitorFilters)[number]["name"];

/** A way of listening, with its name for people and the part of the sound that it needs. */
export const monitorFilterOf = (filter: MonitorFilter): (typeof monitorFilters)[number] =>
  monitorFilters.find(({ name }) => name === filter)!;

/** Semitones by which a way of listening raises the music, so that small speakers play it. */
export const raisedBy = (filter: MonitorFilter): number => (filter === "lowOctave" ? 12 : 0);

/** Edges of the bands, in hertz. */
const ranges: Partial<Record<MonitorFilter, [from: number | null, to: number | null]>> = {
  low: [null, 100],
  // It comes from the pitch correction an octave higher than it was.
  lowOctave: [null, 200],
  lowMid: [100, 600],
  mid: [600, 4000],
  high: [4000, null],
};

/** Two second-order sections in a row with these quality factors fall by 24 dB an octave (Butterworth). */
const fourthOrder = [0.5412, 1.3066];

/** A chain of nodes with one way in and one way out. */
export interface Chain {
  input: AudioNode;
  output: GainNode;
}

/** Left and right made from left and right: four gains. */
function matrix(context: BaseAudioContext, gains: [ll: number, rl: number, lr: number, rr: number]): Chain {
  const input = context.createGain();
  input.channelCount = 2;
  input.channelCountMode = "explicit";
  const splitter = context.createChannelSplitter(2);
  const merger = context.createChannelMerger(2);
  const output = context.createGain();
  input.connect(splitter);
  gains.forEach((value, i) => {
    if (value === 0) return;
    const gain = context.createGain();
    gain.gain.value = value;
    splitter.connect(gain, i % 2);
    gain.connect(merger, 0, i < 2 ? 0 : 1);
  });
  merger.connect(output);
  return { input, output };
}

/** The chain for a way of listening. */
export function chainFor(context: BaseAudioContext, through: MonitorFilter): Chain {
  if (through === "centre" || through === "mono") return matrix(context, [0.5, 0.5, 0.5, 0.5]);
  // The difference of both channels, in both ears.
  if (through === "sides") return matrix(context, [0.5, -0.5, 0.5, -0.5]);
  const output = context.createGain();
  const [from, to] = ranges[through] ?? [null, null];
  const filters = fourthOrder.flatMap((q) =>
    (
      [
        ["highpass", from],
        ["lowpass", to],
      ] as const
    ).flatMap(([type, frequency]) => {
      if (frequency === null) return [];
      const filter = context.createBiquadFilter();
      filter.type = type;
      filter.frequency.value = frequency;
      // The browser's filters take this quality factor in decibels.
      filter.Q.value = 20 * Math.log10(q);
      return [filter];
    }),
  );
  [...filters, output].reduce<AudioNode | null>((before, node) => {
    before?.connect(node);
    return node;
  }, null);
  return { input: filters[0] ?? output, output };
}
