import { drumVoices, withChangedHit, withHit, withoutHit, type DrumCorrection } from "@/core/drums";
import { secondsAt, type Grid } from "@/core/grid/grid";
import type { LinedUpBars } from "@/core/study";
import type { Side } from "@/listening/Playback";
import type { ChosenHit, HitEdit } from "./HitPicture";
import type { DrumTrack } from "./model";

const velocityStep = 0.04;

/** Changes of single hits by hand, of either side. */
export function hitEditing({
  chosen,
  setChosen,
  trackOf,
  grid,
  lined,
  set,
  latest,
}: {
  chosen: ChosenHit | null;
  setChosen(hit: ChosenHit | null): void;
  trackOf(side: Side): DrumTrack | null;
  grid: Grid;
  lined: LinedUpBars | null;
  /** Lays a correction over a track's drums and says what was done. */
  set(track: DrumTrack, correction: DrumCorrection, what: string): Promise<void>;
  /** What was corrected so far, with what is on its way. */
  latest(track: DrumTrack): DrumCorrection;
}) {
  const { beatsPerBar } = grid;
  const editChosen = (alter: Parameters<typeof withChangedHit>[2], what: string) => {
    const track = chosen && trackOf(chosen.side);
    if (!chosen || !track) return;
    const next = { ...chosen.own.hit, ...alter, confidence: 1, origin: "by hand" as const };
    void set(track, withChangedHit(latest(track), chosen.own.hit, alter), what);
    setChosen({ ...chosen, own: { ...chosen.own, hit: next } });
  };
  const removeChosen = () => {
    const track = chosen && trackOf(chosen.side);
    if (!chosen || !track) return;
    void set(track, withoutHit(latest(track), chosen.own.hit), "The hit is taken out");
    setChosen(null);
  };
  const add = (side: Side, voice: (typeof drumVoices)[number], beat: number) => {
    const track = trackOf(side);
    if (!track) return;
    const bar = Math.floor(beat / beatsPerBar) + 1;
    const span = lined?.spans.find((own) => bar >= own.referenceFirst && bar < own.referenceFirst + own.bars);
    if (side === "recreation" && (!span || !lined)) return;
    const time =
      side === "reference"
        ? secondsAt(grid, beat)
        : secondsAt(lined!.version, beat + (span!.versionFirst - span!.referenceFirst) * beatsPerBar);
    void set(track, withHit(latest(track), { time, voice, velocity: 0.75 }), "A hit is added");
  };
  const edit = (key: HitEdit, coarse: boolean) => {
    if (!chosen) return;
    const { hit } = chosen.own;
    const sign = key === "later" || key === "harder" ? 1 : -1;
    if (key === "away") removeChosen();
    else if (key === "otherVoice")
      editChosen(
        { voice: drumVoices[(drumVoices.indexOf(hit.voice) + 1) % drumVoices.length]! },
        "The hit has another voice",
      );
    else if (key === "later" || key === "earlier")
      editChosen({ time: hit.time + sign * (coarse ? 0.005 : 0.001) }, "The hit is moved");
    else
      editChosen(
        { velocity: Math.min(1, Math.max(0.02, hit.velocity + sign * velocityStep * (coarse ? 4 : 1))) },
        "The hit is struck otherwise",
      );
  };
  return { editChosen, removeChosen, add, edit };
}
