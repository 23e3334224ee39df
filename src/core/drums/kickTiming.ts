/**
 * When kicks are struck that have a back-beat just before or after them: the network hears the two
 * nearly as one, the kick drawn towards the other by up to 15 ms, while the back-beat is heard where it
 * is. How the low bands rise tells the kick apart.
 */
import type { Seconds } from "../units";
import { drumBandCount, type DrumBands } from "./bands";
import { firstAfter } from "../firstAfter";
import { leastConfidence, type DrumHit } from "./hits";
import { backVoices } from "./voices";

const { abs, max, min, round } = Math;

/** Heard nearer than this to a kick, a back-beat falls on it; further off neither draws the other. */
const drawn = { from: 0.002, to: 0.02 } as const;
/** Bands in which little but the kick rises, up to about 260 Hz. */
const lowBands = 9;
/** Frames before a kick that say what sounds on, and those around it in which it is loudest. */
const before = { from: -6, to: -2 } as const;
const during = { from: -1, to: 4 } as const;
/** By how much the half of the rise lies after the stroke, in the mean over songs with moved hits. */
const lateRise: Seconds = 0.0015;
/** What lies further off is the rise of something else. */
const furthest: Seconds = 0.025;

/** When the power of the low bands has risen by half around a time; the time itself where it does not rise. */
export function halfRise({ levels, framesPerSecond }: DrumBands, time: Seconds): Seconds {
  const frames = levels.length / drumBandCount;
  const near = round(time * framesPerSecond);
  const power = (frame: number) => {
    const row = max(0, min(frames - 1, frame)) * drumBandCount;
    let sum = 0;
    for (let b = 0; b < lowBands; b++) sum += (10 ** levels[row + b]! - 1) ** 2;
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

/** Hits with kicks put where they are struck. */
export function kicksApart(hits: readonly DrumHit[], bands: DrumBands): DrumHit[] {
  const counts = ({ confidence }: DrumHit) => confidence >= leastConfidence;
  const back = hits.filter((hit) => backVoices.includes(hit.voice) && counts(hit)).map(({ time }) => time);
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
