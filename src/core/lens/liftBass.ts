/**
 * Lifts the bass out of what is left of a mix without its drums, by the notes of its line: what lies at
 * their harmonics counts as bass as far as the line has them throughout, so that a chord above one note
 * does not count. Below the usual range of other instruments all that sounds on is bass.
 */
import type { BassNote } from "../lowEnd";
import { hertzOfPitch } from "../harmony/notes";
import { median } from "../median";
import type { StereoSamples } from "../hits/strokes";
import type { Hertz } from "../units";
import { addMidOrSide, midOrSide, signsOf, type Stereo } from "./midSide";
import { shortTime, type ShortTime } from "./shortTime";

const { log2, max, min, round } = Math;

/** Below this all is bass. */
const alwaysBass: Hertz = 110;
/** Notes are followed up to so many harmonics, and no further than this. */
const mostHarmonics = 24;
const highest: Hertz = 4000;
/** How far a harmonic may lie beside its place: a share of a semitone, and in bands of a frame. */
const semitones = 0.4;
const tiny = 1e-9;

interface Harmonic {
  first: number;
  last: number;
}

/** Bands that each harmonic of a note can lie in; none where they would not be told apart. */
function harmonicsOf(note: BassNote, { hertz, bands }: ShortTime): Harmonic[] {
  const f0 = hertzOfPitch(note.midi + note.cents / 100);
  const width = hertz[1]! - hertz[0]!;
  const result: Harmonic[] = [];
  let band = 0;
  for (let h = 1; h <= mostHarmonics && h * f0 < highest; h++) {
    const reach = max(1.6 * width, h * f0 * (2 ** (semitones / 12) - 1));
    if (reach > 0.5 * f0) break;
    while (band < bands && hertz[band]! < h * f0 - reach) band++;
    const first = band;
    let last = first;
    while (last < bands && hertz[last]! <= h * f0 + reach) last++;
    if (last > first) result.push({ first, last });
  }
  return result;
}

/** @param left what is left without the drums. */
export function liftBass(
  left: StereoSamples,
  rate: Hertz,
  notes: readonly BassNote[],
): { bass: Stereo; unsure: number } {
  const { length } = left[0];
  let unsure = 0;
  const bass: Stereo = [new Float32Array(length), new Float32Array(length)];
  for (const sign of signsOf(left)) {
    const track = shortTime(midOrSide(left, sign), rate, 4096);
    const own = new Float32Array(length);
    const { bands, frames, hertz } = track;
    const places = notes.map((note) => {
      // Frames whose middle lies in the note: a frame is first seen by its newest quarter.
      const first = max(0, track.frameOf(note.start) + 2);
      return {
        first,
        last: max(first + 1, min(frames, track.frameOf(note.end) + 2)),
        harmonics: harmonicsOf(note, track),
      };
    });
    // How loud the harmonics of the line are beside its lowest two, as a rule.
    const magnitudes = new Float32Array(bands);
    const seen: number[][] = Array.from({ length: mostHarmonics }, () => []);
    const strength = ({ first, last }: Harmonic) => {
      let power = 0;
      for (let band = first; band < last; band++) power += magnitudes[band]! ** 2;
      return power;
    };
    const step = max(1, round(places.length / 400));
    for (let n = 0; n < places.length; n += step) {
      const { first, last, harmonics } = places[n]!;
      track.magnitudes((first + last) >> 1, magnitudes);
      const powers = harmonics.map(strength);
      const lowest = (powers[0] ?? 0) + (powers[1] ?? 0);
      if (lowest > tiny) powers.forEach((power, h) => seen[h]!.push(power / lowest));
    }
    const usual = seen.map((own) => (own.length < 4 ? 0 : median(own)));
    const shares = new Float32Array(bands);
    const always = hertz.map((hz) => max(0, min(1, 1 - 6 * log2(max(1, hz) / alwaysBass))));
    const spread = (share: number, { first, last }: Harmonic) => {
      for (let band = first; band < last; band++) shares[band] = max(shares[band]!, share);
    };
    let next = 0;
    let active: (typeof places)[number][] = [];
    for (let frame = 0; frame < frames; frame++) {
      while (next < places.length && places[next]!.first <= frame) active.push(places[next++]!);
      active = active.filter(({ last }) => last > frame);
      shares.set(always);
      if (active.length > 0) {
        track.magnitudes(frame, magnitudes);
        for (const { harmonics } of active) {
          const powers = harmonics.map(strength);
          const lowest = (powers[0] ?? 0) + (powers[1] ?? 0);
          harmonics.forEach((harmonic, h) => {
            const share = h === 0 ? 1 : min(1, (usual[h]! * lowest) / (powers[h]! + tiny));
            spread(share, harmonic);
          });
        }
      }
      if (active.length > 0)
        for (let band = 0; band < bands; band++)
          unsure += 2 * track.energyScale * shares[band]! * (1 - shares[band]!) * magnitudes[band]! ** 2;
      track.add(frame, shares, own);
    }
    addMidOrSide(bass, own, sign);
  }
  return { bass, unsure };
}
