import { fixed } from "@/models/format";
import {
  placeInWords,
  voiceNames,
  type ComparedHit,
  type CountedHit,
  type DrumVoice,
  type PlacedHit,
} from "@/core/drums";

/** From here on a hit is drawn as early or late, and with a figure. */
const lateAt = 0.008;
const figureAt = 0.01;
/** From here on a hit is drawn as too hard or too soft, dB. */
const harderAt = 3.5;

/** Where places and voices lie in a picture of hits. */
export interface HitGeometry {
  x(beat: number): number;
  lineY(place: number): number;
  /** Height of a voice, and length of a hit at full velocity. */
  row: number;
  reach: number;
}

export const hitKey = ({ hit, quantised }: PlacedHit<CountedHit>) =>
  `${hit.voice} ${hit.time.toFixed(4)} ${quantised.toFixed(3)}`;

/** What a hit of the version should be: where it is missing, should fall, and how long it should be. */
export function HitMarks({
  compared,
  voices,
  bars,
  beatsPerBar,
  geometry,
  answered,
}: {
  compared: ComparedHit;
  voices: readonly DrumVoice[];
  /** How many bars are shown. */
  bars: number;
  beatsPerBar: number;
  geometry: HitGeometry;
  answered(bar: number): boolean;
}) {
  const { x, lineY, row, reach } = geometry;
  const { reference, version, kind, timingDeviation, velocityDifference, voice, intended, reliable } =
    compared;
  const place = voices.indexOf(voice);
  if (place < 0 || intended) return null;
  const y = lineY(place);
  if (kind === "missing") {
    if (!reliable || !answered(reference!.bar)) return null;
    // Where its tip would be, clear of the line.
    const cy = y + Math.max(13, reach * reference!.hit.velocity - 5);
    return (
      <circle
        key={`missing ${hitKey(reference!)}`}
        className="mark missing"
        cx={x(reference!.beat)}
        cy={cy}
        r={bars > 4 ? 4 : 5.5}
      >
        <title>{`${voiceNames[voice]} missing on bar ${reference!.bar} beat ${placeInWords(reference!.quantised, beatsPerBar)}`}</title>
      </circle>
    );
  }
  if (kind !== "agrees" || !reference || !version) return null;
  const tip = y + Math.max(5, reach * version.hit.velocity);
  const key = hitKey(version);
  const ownPlace = voices.indexOf(version.hit.voice);
  if (ownPlace !== place) return null;
  const parts = [];
  if (Math.abs(timingDeviation ?? 0) >= lateAt) {
    const to = timingDeviation! > 0 ? -1 : 1;
    const at = x(version.beat);
    const below = Math.min(y + row * 0.47, tip + 8);
    parts.push(
      <g key={`late ${key}`} className="mark late">
        <path d={`M ${at} ${below} h ${to * 11} m ${-to * 4} -3.2 l ${to * 4} 3.2 l ${-to * 4} 3.2`} />
        {Math.abs(timingDeviation!) >= figureAt && bars <= 2 && (
          <text x={at + to * 14} y={below + 4} textAnchor={to > 0 ? "start" : "end"}>
            {fixed(Math.abs(1000 * timingDeviation!), 0)}
          </text>
        )}
      </g>,
    );
  }
  if (Math.abs(velocityDifference ?? 0) >= harderAt) {
    // A short bar where the tip should be.
    const wanted = y + Math.max(5, reach * reference.hit.velocity);
    parts.push(
      <line
        key={`force ${key}`}
        className="mark force"
        x1={x(version.beat) - 6}
        x2={x(version.beat) + 6}
        y1={wanted}
        y2={wanted}
      />,
    );
  }
  return parts;
}
