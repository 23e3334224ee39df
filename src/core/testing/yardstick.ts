/** Figures of a track of a style from what is known of its mix; what is not known is null. */
import type { TrackMeasures } from "../match";
import { stereoOfWhole } from "../stereo";
import { wholeOf } from "../tone";
import { figureNames, toneCurve, type FigureName, type TrackFigures } from "../yardstick";

export const figuresOfMix = ({ bpm, loudness, spectrum }: TrackMeasures): TrackFigures => ({
  countedAs: 1,
  values: {
    ...(Object.fromEntries(figureNames.map((name) => [name, null])) as Record<FigureName, null>),
    tempo: bpm,
    loudness: loudness.integratedLufs,
    loudnessRange: loudness.loudnessRangeLu,
    peakToLoudness: loudness.peakToLoudnessLu,
    width: stereoOfWhole(spectrum).sideToMidDb,
  },
  tone: toneCurve(wholeOf(spectrum)),
  patterns: { kick: null, "snare or clap": null, hats: null },
});
