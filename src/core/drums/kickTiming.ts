/**
 * When kicks and back-beats are struck that fall nearly together: the network hears the two nearly as
 * one, the kick drawn towards the other by up to 15 ms. How the low bands rise tells when the kick was
 * struck. A back-beat before the kick is heard where it is; one after it is drawn back a little.
 */
import type { Fraction, Seconds } from "../units";
import { drumBandCount, type DrumBands } from "./bands";
import { firstAfter } from "../firstAfter";
import { leastConfidence, type DrumHit } from "./hits";
import { backVoices } from "./voices";

const { abs, max, min, round } = Math;

/** Heard nearer than this to a kick, a back-beat falls on it; further off neither draws the other. */
const drawn = { from: 0.002, to: 0.02 } as const;
/** Bands in which little but the kick rises, up to about 260 Hz, and those in which a back-beat rises most, 2 to 14 kHz. */
const lowBands = [0, 9] as const;
const highBands = [24, 38] as const;
/** Frames before a kick that say what sounds on, and those around it in which it is loudest. */
const before = { from: -6, to: -2 } as const;
const during = { from: -1, to: 4 } as const;
/** By how much the half of the rise lies after the stroke, in the mean over songs with moved hits. */
const lateRise: Seconds = 0.0015;
/** What lies further off is the rise of something else. */
const furthest: Seconds = 0.025;
const furthestBack: Seconds = 0.015;

/** When the power of some bands has risen by half around a time; the time itself where it does not rise. */
export function halfRise(
  { levels, framesPerSecond }: DrumBands,
  time: Seconds,
  [first, end]: readonly [first: number, end: number] = lowBands,
): Seconds {
  const frames = levels.length / drumBandCount;
  const near = round(time * framesPerSecond);
  const power = (frame: number) => {
    const row = max(0, min(frames - 1, frame)) * drumBandCount;
    let sum = 0;
    for (let b = first; b < end; b++) sum += (10 ** levels[row + b]! - 1) ** 2;
    return sum;
  };
  let floor = Infinity;
  for (let frame = near + before.from; frame <= near + before.to; frame++) floor = min(floor, power(frame));
  let top = near;
  for (let frame = near + during.from; frame <= near + during.to; frame++) {
    if (power(frame) > power(top)) top = frame;
  }
  const half = floor + (power(top) - floor) / 2;
  for (let frame = top; frame > near + before.from; frame--) {
    const [left, right] = [power(frame - 1), power(frame)];
    if (left < half && right >= half) return (frame - 1 + (half - left) / (right - left)) / framesPerSecond;
  }
  return time;
}

/**
 * By which share of its distance from the kick a back-beat after it is put further off. Songs with moved
 * hits asked for 0.6 of one network (17 strokes, before kicks were put right); since a second one is
 * heard too, the synthesised kit asks for none: 14 ms are heard as 15, and as 18 with this.
 */
const pull: Fraction = 0.2;

const counts = ({ confidence }: DrumHit) => confidence >= leastConfidence;
const isBack = (hit: DrumHit) => backVoices.includes(hit.voice) && counts(hit);

/** Hits with kicks put where they are struck, and back-beats after them further off. */
export function kicksApart(hits: readonly DrumHit[], bands: DrumBands): DrumHit[] {
  const placed = withKicksPlaced(hits, bands);
  const kicks = placed
    .filter((hit) => hit.voice === "kick" && counts(hit))
    .map(({ time }) => time)
    .sort((a, b) => a - b);
  return placed.map((hit) => {
    if (!isBack(hit)) return hit;
    const kick = firstAfter(kicks, hit.time - drawn.to);
    const after = kick === null ? 0 : hit.time - kick;
    if (after <= drawn.from) return hit;
    // Where the click of the kick does not hide it, the rise of the high bands says more than that.
    const risen = halfRise(bands, hit.time, highBands);
    const pulled = hit.time + pull * (after - drawn.from);
    return { ...hit, time: max(pulled, risen <= hit.time + furthestBack ? risen : 0) };
  });
}

function withKicksPlaced(hits: readonly DrumHit[], bands: DrumBands): DrumHit[] {
  const back = hits.filter(isBack).map(({ time }) => time);
  return hits.map((hit) => {
    if (hit.voice !== "kick" || !counts(hit)) return hit;
    const isDrawn = [
      [-drawn.to, -drawn.from],
      [drawn.from, drawn.to],
    ].some(([from, to]) => (firstAfter(back, hit.time + from!) ?? Infinity) <= hit.time + to!);
    if (!isDrawn) return hit;
    const time = max(0, halfRise(bands, hit.time) - lateRise);
    return abs(time - hit.time) <= furthest ? { ...hit, time } : hit;
  });
}
