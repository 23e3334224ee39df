/**
 * Lifts drums out of a mix. What repeats exactly is taken out as it is, in time: the typical stroke of
 * every drum, placed to a fraction of a sample. What is left at the strokes, since no two are quite
 * alike, is shared out between the drums and what sounds on by soft masks on spectrograms of mid and
 * side (a Wiener filter about the typical strokes).
 */
import { leastConfidence, type DrumHit } from "../drums/hits";
import type { DrumVoice } from "../drums/voices";
import { beforeHit } from "../hits/hitMeasures";
import { addScaled } from "../dsp/vector/sums";
import { addDrum, hearDrums, type HeardDrum } from "../hits/typicalHits";
import type { StereoSamples } from "../hits/strokes";
import { decibelsToAmplitude, type Fraction, type Hertz, type Seconds } from "../units";
import { background } from "./background";
import { drumParts, partOfVoice, type DrumPart } from "./parts";
import { addMidOrSide, midOrSide, signsOf, type Stereo } from "./midSide";
import { shortTime, type ShortTime } from "./shortTime";
import { addStrokes, fitGains, fitTemplates, spansOf, type StrokeTrain } from "./strokeTemplates";

const { ceil, floor, log2, max, min, round } = Math;

export interface DrumsLifted {
  parts: Record<DrumPart, Stereo>;
  /** Energy of each that may as well be something else's: the variance of the Wiener filter. */
  unsure: Record<DrumPart, number>;
}

/** Longest that what is left of a stroke is followed. */
const longest: Record<DrumVoice, Seconds> = {
  kick: 0.5,
  snare: 0.5,
  clap: 0.5,
  rim: 0.3,
  hat: 0.2,
  openHat: 0.6,
  tom: 0.6,
  cymbal: 1.2,
  perc: 0.3,
};
/** Frames that see a stroke ahead of the one in which it begins. */
const ahead = 2;
/** A stroke so unlike the typical one that its loudness is not known from it. */
const leastLikeness = 0.2;
/** Templates are learnt from windows of this length, up to so much in all, until enough strokes were heard. */
const learnWindow: Seconds = 8;
const mostLearnt: Seconds = 64;
const enoughStrokes = 48;
/** Frames in which a drum has less than this of every band are not its own. */
const leastShare = 0.02;
/** Frames that are lifted together, and what is looked at on either side. */
const blockFrames = 512;
const halo = 48;

const smoothly = (x: number) => (x <= 0 ? 0 : x >= 1 ? 1 : x * x * (3 - 2 * x));

/** How far a drum can sound at a frequency some seconds after its stroke, 0–1; set by ear, no source. */
function canSound(voice: DrumVoice, hz: Hertz, seconds: Seconds): number {
  const rise = (from: Hertz, to: Hertz) => smoothly(log2(max(hz, 1) / from) / log2(to / from));
  switch (voice) {
    case "kick":
      if (hz < 250) return 1;
      return hz < 1000 ? smoothly((0.2 - seconds) / 0.1) : smoothly((0.09 - seconds) / 0.05);
    case "hat":
    case "openHat":
    case "cymbal":
      return rise(1500, 5000);
    case "snare":
    case "clap":
    case "rim":
      return rise(90, 140);
    case "tom":
    case "perc":
      return rise(50, 80);
  }
}

/**
 * How long a stroke may keep its level in a band, and by how many decibels a second it falls from then on.
 * What dies away more slowly is something else that begins with the strokes, as chords do. Of drums in
 * mixes whose parts are known kicks are lifted out best at 50 to 80 a second, snares at 90 to 140; what
 * their own typical strokes tell was no better.
 */
const diesAway: Record<DrumVoice, { holds: Seconds; falls: number }> = {
  kick: { holds: 0.08, falls: 65 },
  snare: { holds: 0.05, falls: 90 },
  clap: { holds: 0.08, falls: 90 },
  rim: { holds: 0.03, falls: 150 },
  hat: { holds: 0.03, falls: 150 },
  openHat: { holds: 0.1, falls: 50 },
  tom: { holds: 0.08, falls: 65 },
  cymbal: { holds: 0.1, falls: 25 },
  perc: { holds: 0.04, falls: 110 },
};
/** Hats are followed for so short a time that what is left of them may keep its level. */
const leftAsIs: readonly DrumVoice[] = ["hat", "openHat", "cymbal"];

/** The most that a band of a stroke may hold some time after it, beside the most that it held before. */
function ceilingAt(voice: DrumVoice, seconds: Seconds): Fraction {
  const { holds, falls } = diesAway[voice];
  return decibelsToAmplitude(-falls * max(0, seconds - holds));
}

/** A typical stroke without what its drum cannot sound like: chords that were struck with it, above all. */
function ownSound(sound: Float32Array, rate: Hertz, voice: DrumVoice): Float32Array {
  const track = shortTime(sound, rate);
  const result = new Float32Array(sound.length);
  const magnitudes = new Float32Array(track.bands);
  const most = new Float32Array(track.bands);
  const shares = new Float32Array(track.bands);
  for (let frame = 0; frame < track.frames; frame++) {
    // Told by the middle of the frame.
    const seconds = ((frame - 1) * track.hop) / rate - beforeHit;
    const ceiling = ceilingAt(voice, seconds);
    track.magnitudes(frame, magnitudes);
    for (let band = 0; band < track.bands; band++) {
      const own = magnitudes[band]!;
      if (ceiling === 1) most[band] = max(most[band]!, own);
      shares[band] =
        canSound(voice, track.hertz[band]!, seconds) * min(1, (ceiling * most[band]!) / (own + 1e-12));
    }
    track.add(frame, shares, result);
  }
  return result;
}

interface Train extends StrokeTrain {
  part: DrumPart;
}

function trainsOf(
  hits: readonly DrumHit[],
  heard: readonly HeardDrum[],
  { rate, hop, bands, hertz, frameOf }: ShortTime,
): Train[] {
  const places = new Map(
    heard.map((drum) => [
      `${drum.voice}-${drum.kind}`,
      new Map(drum.hits.map((hit, i) => [hit, drum.places[i]!])),
    ]),
  );
  const groups = new Map<string, DrumHit[]>();
  for (const hit of hits) {
    if (hit.confidence < leastConfidence) continue;
    const key = `${hit.voice}-${hit.kind ?? 0}`;
    const own = groups.get(key);
    if (own) own.push(hit);
    else groups.set(key, [hit]);
  }
  return [...groups].map(([key, own]): Train => {
    const { voice } = own[0]!;
    const length = round((longest[voice] * rate) / hop) + ahead + 1;
    const allowed = Float32Array.from({ length: length * bands }, (_, i) =>
      canSound(voice, hertz[i % bands]!, ((floor(i / bands) - ahead) * hop) / rate),
    );
    const known = places.get(key);
    return {
      ceilings: Float32Array.from({ length }, (_, t) =>
        leftAsIs.includes(voice) ? 1 : ceilingAt(voice, ((t - ahead - 1) * hop) / rate),
      ),
      part: partOfVoice[voice],
      starts: Int32Array.from(own, ({ time }) => frameOf(time - 0.0015) - ahead),
      gains: Float32Array.from(own, (hit) => {
        const place = known?.get(hit);
        return place && place.likeness > leastLikeness
          ? min(2.5, max(0.1, place.gain))
          : max(0.05, hit.velocity);
      }),
      length,
      allowed,
      spans: spansOf(allowed, bands),
    };
  });
}

/** Strokes of a train that reach into some frames, counted from the first of them. */
function within({ starts, gains, ...rest }: Train, first: number, last: number): Train {
  const from = starts.findIndex((start) => start + rest.length > first);
  let to = from < 0 ? 0 : from;
  while (to < starts.length && starts[to]! < last) to++;
  const own = from < 0 ? starts.subarray(0, 0) : starts.subarray(from, to);
  return {
    ...rest,
    starts: own.map((start) => start - first),
    gains: from < 0 ? gains.slice(0, 0) : gains.slice(from, to),
  };
}

/** Frames that tell most about those drums of which least is known yet; in order. */
function learnedFrames(trains: readonly Train[], { frames, rate, hop }: ShortTime): number[] {
  const size = ceil((learnWindow * rate) / hop);
  const windows = Array.from({ length: max(1, floor(frames / size)) }, (_, i) => i);
  const counts = windows.map((i) =>
    trains.map(({ starts }) => starts.filter((start) => floor(start / size) === i).length),
  );
  const have = trains.map(() => 0);
  const chosen: number[] = [];
  while (chosen.length < windows.length && chosen.length * learnWindow < mostLearnt) {
    const worth = (i: number) =>
      counts[i]!.reduce((sum, n, k) => sum + min(n, max(0, enoughStrokes - have[k]!)), 0);
    const best = windows.filter((i) => !chosen.includes(i)).reduce((a, b) => (worth(b) > worth(a) ? b : a));
    if (worth(best) === 0) break;
    chosen.push(best);
    counts[best]!.forEach((n, k) => (have[k]! += n));
  }
  return chosen
    .sort((a, b) => a - b)
    .flatMap((i) => Array.from({ length: min(size, frames - i * size) }, (_, k) => i * size + k));
}

/** Where frames lie that were joined from windows: strokes of a train by their place there. */
function joined(train: Train, places: ReadonlyMap<number, number>): Train {
  const kept = [...train.starts.keys()].filter((i) => places.has(max(0, train.starts[i]!)));
  return {
    ...train,
    starts: Int32Array.from(kept, (i) => places.get(max(0, train.starts[i]!))! + min(0, train.starts[i]!)),
    gains: Float32Array.from(kept, (i) => train.gains[i]!),
  };
}

/** Templates of all drums in one channel of what is left. */
function learnt(trains: readonly Train[], track: ShortTime): Float32Array[] {
  const { bands } = track;
  const chosen = learnedFrames(trains, track);
  const magnitudes = new Float32Array(chosen.length * bands);
  chosen.forEach((frame, i) => track.magnitudes(frame, magnitudes.subarray(i * bands, (i + 1) * bands)));
  const places = new Map(chosen.map((frame, i) => [frame, i]));
  const own = trains.map((train) => joined(train, places));
  const sustained = new Float32Array(magnitudes.length);
  background(magnitudes, bands, sustained);
  const first = fitTemplates(magnitudes, sustained, bands, own);
  // Once more, with a background from which the drums are taken.
  const struck = new Float32Array(magnitudes.length);
  own.forEach((train, k) => addStrokes(struck, bands, train, first[k]!));
  for (let i = 0; i < struck.length; i++) struck[i] = max(0, magnitudes[i]! - struck[i]!);
  background(struck, bands, sustained);
  return fitTemplates(magnitudes, sustained, bands, own);
}

/** Shares out one channel of what is left. */
function shareOut(
  trains: readonly Train[],
  templates: readonly Float32Array[],
  track: ShortTime,
  put: (part: DrumPart, frame: number, shares: Float32Array, unsure: number) => void,
): void {
  const { bands, frames } = track;
  for (let begin = 0; begin < frames; begin += blockFrames) {
    const first = max(0, begin - halo);
    const last = min(frames, begin + blockFrames + halo);
    const own = trains.map((train) => within(train, first, last));
    if (own.every(({ starts }) => starts.length === 0)) continue;
    const size = (last - first) * bands;
    const magnitudes = new Float32Array(size);
    for (let frame = first; frame < last; frame++)
      track.magnitudes(frame, magnitudes.subarray((frame - first) * bands, (frame - first + 1) * bands));
    const sustained = new Float32Array(size);
    background(magnitudes, bands, sustained);
    const model = sustained.slice();
    own.forEach((train, k) => addStrokes(model, bands, train, templates[k]!));
    fitGains(magnitudes, model, bands, own, templates);
    const sums = drumParts.map((part) => {
      const members = own.flatMap((train, k) => (train.part === part && train.starts.length > 0 ? [k] : []));
      if (members.length === 0) return null;
      const sum = new Float32Array(size);
      for (const k of members) addStrokes(sum, bands, own[k]!, templates[k]!);
      return sum;
    });
    const rest = model;
    rest.set(magnitudes);
    for (const sum of sums) if (sum) for (let i = 0; i < size; i++) rest[i]! -= sum[i]!;
    for (let i = 0; i < size; i++) if (rest[i]! < 0) rest[i] = 0;
    background(rest, bands, sustained);
    const whole = new Float32Array(bands);
    const shares = new Float32Array(bands);
    for (let frame = begin; frame < min(frames, begin + blockFrames); frame++) {
      const at = (frame - first) * bands;
      for (let band = 0; band < bands; band++)
        whole[band] = sustained[at + band]! * sustained[at + band]! + 1e-12;
      for (const sum of sums)
        if (sum) for (let band = 0; band < bands; band++) whole[band]! += sum[at + band]! * sum[at + band]!;
      drumParts.forEach((part, k) => {
        const sum = sums[k];
        if (!sum) return;
        let most = 0;
        let unsure = 0;
        for (let band = 0; band < bands; band++) {
          const own = sum[at + band]!;
          const magnitude = magnitudes[at + band]!;
          const share = (own * own) / whole[band]!;
          shares[band] = share;
          if (share > most) most = share;
          unsure += share * (1 - share) * magnitude * magnitude;
        }
        if (most > leastShare) put(part, frame, shares, unsure);
      });
    }
  }
}

/**
 * @param channels left and right; the same array twice for mono.
 * @param hits in order of time; those below the confidence that counts are left out.
 * @param bassStarts when bass notes begin, in order.
 */
export function liftDrums(
  channels: StereoSamples,
  rate: Hertz,
  hits: readonly DrumHit[],
  bassStarts: readonly Seconds[],
): DrumsLifted {
  const { length } = channels[0];
  const blank = (): Stereo => [new Float32Array(length), new Float32Array(length)];
  const parts = { kick: blank(), snare: blank(), hats: blank(), percussion: blank() };
  const unsure = { kick: 0, snare: 0, hats: 0, percussion: 0 };
  const { drums } = hearDrums(channels, rate, hits, bassStarts);
  for (const drum of drums) {
    if (!drum.average) continue;
    const samples = drum.average.samples.map((sound) => ownSound(sound, rate, drum.voice)) as Stereo;
    addDrum({ ...drum, average: { ...drum.average, samples } }, parts[partOfVoice[drum.voice]], 1);
  }
  const rest = channels.map((samples, side) => {
    const own = samples.slice();
    for (const part of drumParts) addScaled(own, parts[part][side as 0 | 1], -1);
    return own;
  }) as Stereo;
  for (const sign of signsOf(rest)) {
    const track = shortTime(midOrSide(rest, sign), rate);
    const left = {
      kick: new Float32Array(length),
      snare: new Float32Array(length),
      hats: new Float32Array(length),
      percussion: new Float32Array(length),
    };
    const trains = trainsOf(hits, drums, track);
    const templates = learnt(trains, track);
    shareOut(trains, templates, track, (part, frame, shares, energy) => {
      // Mid and side each stand for both channels.
      unsure[part] += 2 * energy * track.energyScale;
      track.add(frame, shares, left[part]);
    });
    for (const part of drumParts) addMidOrSide(parts[part], left[part], sign);
  }
  return { parts, unsure };
}
