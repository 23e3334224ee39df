/**
 * The typical hit of every drum of a track: its strokes laid over one another, so that what does not
 * repeat cancels. Drums are told apart by turns: each is looked for in what is left when the others,
 * as far as they are known, are taken away.
 */
import type { DrumHit } from "../drums/hits";
import { leastConfidence } from "../drums/hits";
import { drumVoices, type DrumVoice } from "../drums/voices";
import { aloneUntil } from "../lowEnd/typicalKick";
import type { Decibels, Fraction, Hertz, Seconds } from "../units";
import { averageStrokes, cutOut, meanStroke, type Average, type Entry } from "./average";
import { addScaled } from "../dsp/vector/sums";
import { beforeHit } from "./hitMeasures";
import { comparedSeconds, strokeLocator, type Place, type StereoSamples } from "./strokes";
import { median } from "../median";

const { abs, max, min, round } = Math;

export interface TypicalHit {
  voice: DrumVoice;
  /** Which drum of its voice: 0 the one with most strokes. */
  kind: number;
  rate: Hertz;
  /** Left and right at full velocity of a usual stroke, from `beforeHit` ahead of it on. */
  samples: [Float32Array, Float32Array];
  /** Strokes in all, and the times of those that it is made of. */
  count: number;
  used: Seconds[];
  /** Share of it that repeats from stroke to stroke. */
  clean: Fraction;
  /** How long after the stroke it is known: what follows is always overlaid by the next. */
  known: Seconds;
}

/** Longest that a drum of each voice is followed. */
const longest: Record<DrumVoice, Seconds> = {
  kick: 1,
  snare: 0.8,
  clap: 0.8,
  rim: 0.4,
  hat: 0.4,
  openHat: 1,
  tom: 1.2,
  cymbal: 2,
  perc: 0.6,
};
/** Below this a drum of each voice has nothing that is its own. */
const lowest: Record<DrumVoice, Hertz> = {
  kick: 20,
  snare: 90,
  clap: 250,
  rim: 180,
  hat: 500,
  openHat: 500,
  tom: 45,
  cymbal: 300,
  perc: 100,
};
/** Where each voice is found by: what sounds with it mostly lies elsewhere. */
const toldBy: Record<DrumVoice, readonly [Hertz, Hertz]> = {
  kick: [20, 1500],
  snare: [120, 5000],
  clap: [400, 6000],
  rim: [300, 8000],
  hat: [2500, 18000],
  openHat: [2500, 18000],
  tom: [50, 2000],
  cymbal: [1500, 18000],
  perc: [150, 8000],
};
/** Voices that a bass note covers. */
const lowVoices: readonly DrumVoice[] = ["kick", "tom"];
const fewestStrokes = 4;
/** Strokes that enter at most. */
const mostEntries = 40;
/** Another stroke this near sounds with it. */
const together: Seconds = 0.03;
/** From this long ahead of a stroke is heard what sounds anyway. */
const listenedBefore: Seconds = 0.06;
/** What is known of a drum at first, before others are taken away from it. */
const leastRoom: Seconds = 0.08;
const rounds = 2;
/** Strokes much softer or louder than usual, or much less like the others than they are, do not enter. */
const gainRange = [0.35, 2.5] as const;

interface Drum {
  voice: DrumVoice;
  kind: number;
  hits: DrumHit[];
  places: Place[];
  /** Samples until another drum is struck, and until this voice is again. */
  freeUntil: number[];
  ownUntil: number[];
  /** Places of strokes in `hits`, those that stand freest first. */
  freest: number[];
  average: Average | null;
  entered: number[];
}

function gatherDrums(hits: readonly DrumHit[], bassStarts: readonly Seconds[], rate: Hertz): Drum[] {
  const sure = hits.filter(({ confidence }) => confidence >= leastConfidence);
  const groups = new Map<string, { hit: DrumHit; i: number }[]>();
  sure.forEach((hit, i) => {
    const key = `${hit.voice}-${hit.kind ?? 0}`;
    const own = groups.get(key) ?? [];
    own.push({ hit, i });
    groups.set(key, own);
  });
  return [...groups.values()]
    .filter((own) => own.length >= fewestStrokes)
    .map((own): Drum => {
      const { voice, kind = 0 } = own[0]!.hit;
      const bass = lowVoices.includes(voice)
        ? aloneUntil(
            own.map(({ hit }) => hit.time),
            bassStarts,
          )
        : own.map(() => ({ until: Infinity, withBass: false }));
      const about = own.map(({ hit, i }, k) => {
        let beside = bass[k]!.withBass ? 1 : 0;
        let before = i - 1;
        while (before >= 0 && sure[before]!.time > hit.time - together) {
          if (sure[before]!.voice !== voice) beside++;
          before--;
        }
        let after = i + 1;
        while (after < sure.length && sure[after]!.time < hit.time + together) {
          if (sure[after]!.voice !== voice) beside++;
          after++;
        }
        const free = min(sure[after]?.time ?? Infinity, bass[k]!.until) - hit.time;
        let again = i + 1;
        while (again < sure.length && sure[again]!.voice !== voice) again++;
        const repeated = min(sure[again]?.time ?? Infinity, bass[k]!.until) - hit.time;
        return { beside, free, repeated };
      });
      return {
        voice,
        kind,
        hits: own.map(({ hit }) => hit),
        places: own.map(({ hit }) => ({
          at: round((hit.time - beforeHit) * rate),
          shift: 0,
          gain: 1,
          likeness: 1,
        })),
        freeUntil: about.map(({ free }) => free),
        ownUntil: about.map(({ repeated }) => repeated),
        freest: own
          .map((_, k) => k)
          .sort(
            (a, b) =>
              about[a]!.beside - about[b]!.beside ||
              min(0.25, about[b]!.free) - min(0.25, about[a]!.free) ||
              own[b]!.hit.confidence * own[b]!.hit.velocity - own[a]!.hit.confidence * own[a]!.hit.velocity,
          ),
        average: null,
        entered: [],
      };
    })
    .sort((a, b) => drumVoices.indexOf(a.voice) - drumVoices.indexOf(b.voice) || a.kind - b.kind);
}

/** Adds the drum, as it is known, at all its strokes; −1 takes it away. */
export function addDrum({ average, places }: HeardDrum, samples: StereoSamples, sign: 1 | -1): void {
  if (!average) return;
  const { known } = average;
  // Quarters of a sample are near enough to take away what can be heard.
  const shifted = new Map<number, Float32Array[]>();
  for (const { at, shift, gain, likeness } of places) {
    if (likeness < 0.2) continue;
    const quarter = round(shift * 4) / 4;
    let own = shifted.get(quarter);
    if (!own) {
      own = average.samples.map((channel) => cutOut(channel, 0, -quarter, known));
      shifted.set(quarter, own);
    }
    const factor = sign * min(2.5, gain);
    own.forEach((sound, channel) => addScaled(samples[channel]!, sound, factor, at));
  }
}

/** Looks for the typical stroke of a drum in what is left of the track. */
function hear(
  drum: Drum,
  left: StereoSamples,
  rate: Hertz,
  isFirst: boolean,
  leftOut: ReadonlySet<Seconds>,
): void {
  const { places, hits, freest } = drum;
  const locator = strokeLocator(left, rate, toldBy[drum.voice]);
  const length = round((beforeHit + longest[drum.voice]) * rate);
  const asked = freest.filter((i) => !leftOut.has(hits[i]!.time));
  if (asked.length < fewestStrokes) return;
  let template = drum.average
    ? locator.templateOf(drum.average.samples)
    : locator.first(asked.map((i) => places[i]!));
  const entries = (among: Place[]): Entry[] => {
    locator.locate(among, template);
    const usual = median(among.map(({ gain }) => gain));
    const alike = median(among.map(({ likeness }) => likeness));
    const located = new Set(among);
    const fit = asked.filter((i) => {
      if (!located.has(places[i]!)) return false;
      const { gain, likeness } = places[i]!;
      return gain > gainRange[0] * usual && gain < gainRange[1] * usual && likeness > 0.6 * alike;
    });
    drum.entered = (fit.length >= fewestStrokes ? fit : asked).slice(0, mostEntries);
    return drum.entered.map((i): Entry => {
      const free = isFirst ? max(leastRoom, drum.freeUntil[i]!) : drum.ownUntil[i]!;
      const room = round(min(2 * longest.cymbal, beforeHit + free - 0.004) * rate);
      return { ...places[i]!, gain: max(1e-6, places[i]!.gain), room };
    });
  };
  // Once to find where the strokes begin, then for their sound.
  const freestPlaces = asked.slice(0, 2 * mostEntries).map((i) => places[i]!);
  template = locator.templateOf(meanStroke(left, entries(freestPlaces), round(comparedSeconds * rate)));
  drum.average = averageStrokes(
    left,
    rate,
    entries(places),
    length,
    round(listenedBefore * rate),
    lowest[drum.voice],
  );
  // The typical hit is as loud as a usual stroke.
  const usual = median(drum.entered.map((i) => places[i]!.gain));
  if (!(usual > 0)) return;
  for (const channel of drum.average!.samples) for (let i = 0; i < channel.length; i++) channel[i]! *= usual;
  for (const place of places) place.gain /= usual;
}

/** Where a hit has fallen so far for so long it is over: what rises again is another drum. */
const overBelow: Decibels = 36;
const overFor: Seconds = 0.012;

/** Ends a hit where it is over, in place. */
function endWhereOver(samples: readonly Float32Array[], rate: Hertz): void {
  const { length } = samples[0]!;
  const width = round(0.004 * rate);
  let peak = 0;
  let quietSince = length;
  for (let at = 0; at + width <= length; at += width) {
    let power = 0;
    for (const channel of samples) for (let i = at; i < at + width; i++) power += channel[i]! * channel[i]!;
    peak = max(peak, power);
    // Before its stroke a hit is quiet too.
    if (at < beforeHit * rate || power > peak * 10 ** (-overBelow / 10)) quietSince = length;
    else if (quietSince === length) quietSince = at;
    if (at - quietSince >= overFor * rate) break;
  }
  if (length - quietSince < overFor * rate) return;
  const fade = round(0.005 * rate);
  for (const channel of samples) {
    for (let i = quietSince; i < min(length, quietSince + fade); i++)
      channel[i]! *= 1 - (i - quietSince) / fade;
    channel.fill(0, quietSince + fade);
  }
}

/**
 * @param channels left and right; the same array twice for mono.
 * @param hits in order of time; those below the confidence that counts are left out.
 * @param bassStarts when bass notes begin, in order.
 * @param leftOut times of strokes that must not enter.
 * @returns those drums that are struck four times or more.
 */
export function typicalHits(
  channels: StereoSamples,
  rate: Hertz,
  hits: readonly DrumHit[],
  bassStarts: readonly Seconds[],
  leftOut: ReadonlySet<Seconds> = new Set(),
): TypicalHit[] {
  const { drums } = hearDrums(channels, rate, hits, bassStarts, leftOut);
  const heard = drums.flatMap((drum) => {
    const isHeard = drum.average?.samples.some((channel) => channel.some((x) => abs(x) > 1e-7));
    return isHeard ? [{ ...drum, average: drum.average! }] : [];
  });
  return heard.map(({ voice, kind, average, entered, hits: own }): TypicalHit => {
    endWhereOver(average.samples, rate);
    return {
      voice,
      kind,
      rate,
      samples: average.samples,
      count: own.length,
      used: entered.map((i) => own[i]!.time).sort((a, b) => a - b),
      clean: average.clean,
      known: max(0, average.known / rate - beforeHit),
    };
  });
}

/** A drum as it was heard, with where each of its strokes lies. */
export type HeardDrum = Pick<Drum, "voice" | "kind" | "hits" | "places" | "average">;

/** The drums of a track, and what is left of it without them. */
export function hearDrums(
  channels: StereoSamples,
  rate: Hertz,
  hits: readonly DrumHit[],
  bassStarts: readonly Seconds[],
  leftOut: ReadonlySet<Seconds> = new Set(),
): { drums: Drum[]; left: StereoSamples } {
  const drums = gatherDrums(hits, bassStarts, rate);
  const left: StereoSamples = [Float32Array.from(channels[0]), Float32Array.from(channels[1])];
  for (let turn = 0; turn < rounds; turn++) {
    for (const drum of drums) {
      addDrum(drum, left, 1);
      hear(drum, left, rate, turn === 0, leftOut);
      addDrum(drum, left, -1);
    }
  }
  return { drums, left };
}
