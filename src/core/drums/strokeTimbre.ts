/** How strokes sound, from the attack to a tenth of a second later: what drums of one voice are told apart by. */
import { drumBandCount, type DrumBands } from "./bands";

const { max, min, round } = Math;

/** Frames against a stroke: those that it rises from, its attack, and two spans of its decay. */
const before = [-5, -4, -3] as const;
const attack = [0, 1, 2, 3] as const;
const spans = [
  [4, 5, 6],
  [8, 9, 10],
] as const;
/** Bands that are taken together once it decays. */
const pooled = 2;
const pooledBands = drumBandCount / pooled;
export const timbreSize = drumBandCount + spans.length * pooledBands;

/** The lowest band that a number of a timbre is of. */
export const bandOfTimbre = (d: number): number =>
  d < drumBandCount ? d : pooled * ((d - drumBandCount) % pooledBands);

/**
 * @param to takes how far each band rises, then how much is left of it in each span, pairs of bands together;
 *   in the compressed levels of the bands.
 */
export function timbreAt({ levels }: DrumBands, frame: number, to: Float32Array, offset: number): void {
  const frames = levels.length / drumBandCount;
  const at = (by: number, band: number) =>
    levels[min(frames - 1, max(0, frame + by)) * drumBandCount + band]!;
  to.fill(0, offset, offset + timbreSize);
  for (let band = 0; band < drumBandCount; band++) {
    let floor = 0;
    for (const by of before) floor += at(by, band) / before.length;
    let top = 0;
    for (const by of attack) top = max(top, at(by, band));
    to[offset + band] = max(0, top - floor);
    for (let s = 0; s < spans.length; s++) {
      let later = 0;
      for (const by of spans[s]!) later += at(by, band) / spans[s]!.length;
      const place = offset + drumBandCount + s * pooledBands + ((band / pooled) | 0);
      to[place]! += max(0, later - floor) / pooled;
    }
  }
}

/** Of each stroke how it sounds: `times.length × timbreSize`. */
export function strokeTimbres(times: readonly number[], bands: DrumBands): Float32Array {
  const timbres = new Float32Array(times.length * timbreSize);
  times.forEach((time, i) => timbreAt(bands, round(time * bands.framesPerSecond), timbres, i * timbreSize));
  return timbres;
}
