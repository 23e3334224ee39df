/**
 * Known changes of a mix: whether ducking, limiting, space, width and clipping are found with their
 * size. One song of each style; both sides are analysed as files are, with the hits that are heard.
 */
import { analyse } from "@/core/analysis/analyse";
import type { TrackAnalysis } from "@/core/analysis/result";
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { pumpingGap, spaceGaps } from "@/core/envelopes";
import { stereoOfWhole, widthGaps } from "@/core/stereo";
import { fractionalOctaveSpectrogram, frameSizeFor } from "@/core/tone/fractionalOctaveSpectrogram";
import { resonanceGaps, resonanceGatherer } from "@/core/tone/resonances";
import { measuresOfWhole } from "@/core/study";
import { secondsOf } from "@/demo/makeSong";
import { mixDown } from "@/demo/mix";
import { chance } from "@/demo/random";
import { renderParts, renderRate, type StereoTrack } from "@/demo/render";
import type { Part } from "@/demo/song";
import { styleSong } from "@/demo/songs/styles";
import { median, quantile, table } from "../tables";
import { firstSeed, type PartOptions, type Sections } from "./part";

/** A limiter as the mixes have it: everything louder, peaks held. */
const limited = (track: StereoTrack, byDb: number): StereoTrack => {
  const peak = track.reduce((most, side) => side.reduce((m, x) => Math.max(m, Math.abs(x)), most), 0);
  // From where the peaks are, so that `byDb` is what the limiter takes from the highest.
  return mixDown([track], [{ gainDb: 0, pan: 0, room: 0 }], {
    driveDb: byDb - 20 * Math.log10(peak / 10 ** (-0.3 / 20)),
    ceilingDb: -0.3,
  });
};

/** Ducks samples at each kick: down within 3 ms, back in so many, evenly in dB. */
function ducked(track: StereoTrack, kicks: readonly number[], depthDb: number, ms: number): StereoTrack {
  const gain = new Float32Array(track[0].length);
  for (const kick of kicks) {
    const first = Math.round((kick - 0.003) * renderRate);
    const length = Math.round((ms / 1000) * renderRate);
    const attack = Math.round(0.003 * renderRate);
    for (let i = Math.max(0, first); i < Math.min(gain.length, first + attack + length); i++) {
      const own = i < first + attack ? (i - first) / attack : 1 - (i - first - attack) / length;
      gain[i] = Math.max(gain[i]!, own);
    }
  }
  return track.map((side) => side.map((x, i) => x * 10 ** ((-depthDb * gain[i]!) / 20))) as StereoTrack;
}

const sum = (a: StereoTrack, b: StereoTrack): StereoTrack =>
  a.map((side, s) => side.map((x, i) => x + b[s]![i]!)) as StereoTrack;

/** Gain of the side, over everything or below a frequency. */
function withSide(track: StereoTrack, gainDb: number, below?: number): StereoTrack {
  const side = track[0].map((x, i) => (x - track[1][i]!) / 2);
  const changed = Float32Array.from(side);
  if (below) {
    // What stays is the side above, by a fourth-order filter.
    for (const q of [0.541, 1.307]) applyBiquad(designBiquad("highPass", renderRate, below, q), changed);
  } else for (let i = 0; i < changed.length; i++) changed[i]! *= 10 ** (gainDb / 20);
  const mid = track[0].map((x, i) => (x + track[1][i]!) / 2);
  return [mid.map((m, i) => m + changed[i]!), mid.map((m, i) => m - changed[i]!)];
}

/** Rings at a frequency by 6 dB. */
const ringing = (track: StereoTrack, hertz: number, q: number): StereoTrack =>
  track.map((side) => {
    const own = Float32Array.from(side);
    applyBiquad(designBiquad("peak", renderRate, hertz, q, 6), own);
    return own;
  }) as StereoTrack;

const resonancesASong = 4;

/** How far each fine band of a track stands out, as an analysis finds it. */
function standingOut(track: StereoTrack): number[] {
  const size = frameSizeFor(renderRate);
  const gatherer = resonanceGatherer(renderRate / size, size / 2);
  fractionalOctaveSpectrogram(track, renderRate, undefined, gatherer.add);
  return gatherer.finish().excess;
}

const analysisOf = async (channels: StereoTrack): Promise<TrackAnalysis> =>
  (await analyse({ sampleRate: renderRate, channels, layout: ["left", "right"] })).analysis;

interface Row {
  change: string;
  /** Error of the size in dB, and of the time as a share; or whether the direction is right. */
  depthError?: number;
  timeError?: number;
  isRight?: boolean;
}

const ducks = [
  [3, 60],
  [6, 120],
  [9, 200],
  [12, 300],
] as const;

async function changesOf(style: string): Promise<Row[]> {
  const song = styleSong(style, firstSeed);
  const split = song.parts.flatMap((part): Part[] =>
    part.sound === "drums"
      ? [true, false].map((isKick) => ({
          ...part,
          notes: part.notes.filter(({ voice }) => (voice === "kick") === isKick),
        }))
      : [part],
  );
  const isKick = (part: Part) => part.notes.some(({ voice }) => voice === "kick");
  const kicks = split.filter(isKick).flatMap(({ notes }) => notes.map(({ time }) => time));
  const tracks = await renderParts(split, secondsOf(song));
  const mixOf = (wanted: (part: Part) => boolean, room = 0) =>
    mixDown(
      tracks,
      split.map((part) =>
        wanted(part) ? { ...part.mix, gainDb: part.mix.gainDb - 6, room: part.mix.room + room } : null,
      ),
      { driveDb: 0, ceilingDb: 20 },
    );
  const kickMix = mixOf(isKick);
  const rest = mixOf((part) => !isKick(part));
  const plain = sum(kickMix, rest);
  const base = await analysisOf(plain);
  const baseMeasures = measuresOfWhole(base);
  const beat = 60 / song.bpm;
  const rows: Row[] = [];

  const say = (text: string) => console.error(`${style}: ${text}`);
  if (base.envelopes.pumping) {
    say(`as it is: ${JSON.stringify(base.envelopes.pumping.ducking)}`);
    rows.push({ change: "no ducking, one file", isRight: base.envelopes.pumping.ducking.high === null });
    for (const [depth, ms] of ducks) {
      const own = await analysisOf(sum(kickMix, ducked(rest, kicks, depth, ms)));
      const change = `ducked by ${depth} dB, ${ms} ms`;
      const gap = own.envelopes.pumping && pumpingGap(base.envelopes.pumping, own.envelopes.pumping, beat);
      const alone = own.envelopes.pumping?.ducking.high;
      say(`${change}: ${JSON.stringify(gap)} alone ${JSON.stringify(alone)}`);
      if (gap)
        rows.push({ change, depthError: gap.gapDb - depth, timeError: (gap.recoveryMs ?? 0) / ms - 1 });
      rows.push({
        change: `${change}, one file`,
        ...(alone ? { depthError: alone.depthDb - depth, timeError: alone.recoveryMs / ms - 1 } : {}),
        isRight: Boolean(alone),
      });
    }
  }
  const held = await Promise.all([3, 6, 9].map((by) => analysisOf(limited(plain, by))));
  [base, ...held].slice(0, -1).forEach((less, i) => {
    const more = held[i]!;
    const change = `limiter, ${[0, 3, 6][i]} dB against ${[3, 6, 9][i]}`;
    const [a, b] = [less.envelopes.punch, more.envelopes.punch];
    rows.push({
      change: `${change}: peak to loudness`,
      isRight: more.loudness.peakToLoudnessLu! < less.loudness.peakToLoudnessLu!,
    });
    if (a && b) rows.push({ change: `${change}: attack`, isRight: b.attackDb < a.attackDb });
    say(`${change}: attack ${a?.attackDb} → ${b?.attackDb}, sustain ${a?.sustainDb} → ${b?.sustainDb}`);
  });
  for (const room of [0.1, 0.25]) {
    const own = await analysisOf(
      sum(
        mixOf(isKick, room),
        mixOf((part) => !isKick(part), room),
      ),
    );
    const gaps = spaceGaps(base.envelopes.space, own.envelopes.space).filter((gap) => gap !== null);
    say(
      `room +${room}: ${gaps.map((gap) => gap.toFixed(1)).join(" ")}, decay ${own.envelopes.space.ranges.map(({ decaySeconds }, i) => `${base.envelopes.space.ranges[i]!.decaySeconds}→${decaySeconds}`).join(" ")}`,
    );
    if (gaps.length > 0)
      rows.push({ change: `room +${room}`, isRight: gaps.reduce((total, gap) => total + gap, 0) > 0 });
  }
  for (const by of [-3, 3]) {
    const own = measuresOfWhole(await analysisOf(withSide(plain, by)));
    const change = `side ${by > 0 ? "+" : "−"}3 dB`;
    const whole =
      (stereoOfWhole(own.spectrum).sideToMidDb ?? 0) -
      (stereoOfWhole(baseMeasures.spectrum).sideToMidDb ?? 0);
    rows.push({ change, depthError: whole - by });
  }
  const narrow = measuresOfWhole(await analysisOf(withSide(plain, 0, 120)));
  const gaps = widthGaps(baseMeasures.spectrum, narrow.spectrum);
  rows.push({
    change: "mono below 120 Hz: moved above 500 Hz",
    depthError: Math.max(...gaps.slice(5).map((gap) => Math.abs(gap ?? 0))),
  });
  const c = chance(firstSeed + style.length);
  const asItIs = standingOut(plain);
  for (let i = 0; i < resonancesASong; i++) {
    const hertz = 200 * 50 ** ((i + c.next()) / resonancesASong);
    const q = c.between(10, 20);
    const found = resonanceGaps(asItIs, standingOut(ringing(plain, hertz, q)));
    const own = found.find(({ hz }) => Math.abs(12 * Math.log2(hz / hertz)) <= 1);
    say(`resonance at ${hertz.toFixed(0)} Hz, Q ${q.toFixed(0)}: ${JSON.stringify(found)}`);
    rows.push({
      change: "resonance of +6 dB, Q 10 to 20",
      isRight: own !== undefined,
      ...(own ? { depthError: own.gapDb - 6 } : {}),
    });
    rows.push({ change: "resonance: no other told", isRight: found.every((gap) => gap === own) });
  }
  // Clipped at places that are known: single runs, far apart, driven over full scale.
  const clipped = plain.map((side) => side.map((x) => Math.max(-0.9, Math.min(0.9, x * 0.5)))) as StereoTrack;
  const places = Array.from({ length: 12 }, (_, i) => 4 + i * 3.37).filter((at) => at < secondsOf(song) - 2);
  for (const at of places) clipped[0].fill(1, Math.round(at * renderRate), Math.round(at * renderRate) + 5);
  const own = await analysisOf(clipped);
  rows.push({
    change: "clipped runs at their places",
    isRight:
      own.clippedRuns === places.length &&
      own.clippedPlaces.every(
        ({ start }, i) => Math.abs(start - Math.round(places[i]! * renderRate) / renderRate) < 1e-4,
      ),
  });
  return rows;
}

export async function changeSections({ styles }: PartOptions): Promise<Sections> {
  const rows: Row[] = [];
  for (const style of styles) rows.push(...(await changesOf(style)));
  const changes = [...new Set(rows.map(({ change }) => change))].sort((a, b) => a.localeCompare(b));
  const signed = (numbers: readonly number[], digits: number) =>
    numbers.length === 0 ? "–" : median(numbers).toFixed(digits);
  const nine = (numbers: readonly number[], digits: number) =>
    numbers.length === 0 ? "–" : quantile(numbers.map(Math.abs), 0.9).toFixed(digits);
  return {
    "Known changes": `One song of each style, mixed with room to spare; the hits are those that are heard. Against the unchanged mix: error of the size in dB and of the time as a share (middle; nine in ten within), and in how many the change is found, or more told from less. "One file" is told without the other side. Targets: ducking within 1 dB and 0.2; side within 0.3 dB; limiter always; room and resonances (within a semitone) 0.95; clipping always.\n\n${table(
      [
        "change",
        "songs",
        "right",
        "size error, dB",
        "nine in ten within",
        "time error",
        "nine in ten within",
      ],
      changes.map((change) => {
        const own = rows.filter((row) => row.change === change);
        const judged = own.filter(({ isRight }) => isRight !== undefined);
        const depths = own.flatMap(({ depthError }) => depthError ?? []);
        const times = own.flatMap(({ timeError }) => timeError ?? []);
        return [
          change,
          own.length,
          judged.length > 0 ? `${judged.filter(({ isRight }) => isRight).length} of ${judged.length}` : "–",
          signed(depths, 1),
          nine(depths, 1),
          signed(times, 2),
          nine(times, 2),
        ];
      }),
    )}`,
  };
}
