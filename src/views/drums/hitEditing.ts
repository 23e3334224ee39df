import {
  drumVoices,
  hitsOfKind,
  voiceNames,
  withChangedHit,
  withHit,
  withoutHit,
  withVoiceOf,
  type CountedHit,
  type DrumCorrection,
  type DrumVoice,
} from "@/core/drums";
import { secondsAt, type Grid } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";
import type { Side } from "@/listening/Playback";
import type { ChosenHit, HitEdit } from "./HitPicture";
import type { DrumTrack } from "@/models/drums";

const velocityStep = 0.04;

/** Changes of single hits by hand, of either side. */
export function hitEditing({
  chosen,
  setChosen,
  trackOf,
  hitsOf,
  grid,
  aligned,
  set,
}: {
  chosen: ChosenHit | null;
  setChosen(hit: ChosenHit | null): void;
  trackOf(side: Side): DrumTrack | null;
  /** All hits of a side that count. */
  hitsOf(side: Side): readonly CountedHit[];
  grid: Grid;
  aligned: AlignedBars | null;
  /** Changes what was corrected of a track's drums, with what is on its way, and says what was done. */
  set(track: DrumTrack, change: (correction: DrumCorrection) => DrumCorrection, label: string): void;
}) {
  const { beatsPerBar } = grid;
  const editChosen = (alter: Parameters<typeof withChangedHit>[2], label: string) => {
    const track = chosen && trackOf(chosen.side);
    if (!chosen || !track) return;
    const next = { ...chosen.own.hit, ...alter, confidence: 1, origin: "by hand" as const };
    const old = chosen.own.hit;
    set(track, (now) => withChangedHit(now, old, alter), label);
    setChosen({ ...chosen, own: { ...chosen.own, hit: next } });
  };
  /** The hits that sound like the chosen one; none where that is not known. */
  const alike = chosen ? hitsOfKind(hitsOf(chosen.side), chosen.own.hit) : [];
  const renameAlike = (voice: DrumVoice) => {
    const track = chosen && trackOf(chosen.side);
    if (!chosen || !track || voice === chosen.own.hit.voice) return;
    const hits = alike;
    set(
      track,
      (now) => withVoiceOf(now, hits, voice),
      `${hits.length} hits are now ${voiceNames[voice].toLowerCase()}`,
    );
    setChosen({ ...chosen, own: { ...chosen.own, hit: { ...chosen.own.hit, voice, origin: "by hand" } } });
  };
  const removeChosen = () => {
    const track = chosen && trackOf(chosen.side);
    if (!chosen || !track) return;
    const old = chosen.own.hit;
    set(track, (now) => withoutHit(now, old), "Hit removed");
    setChosen(null);
  };
  const add = (side: Side, voice: (typeof drumVoices)[number], beat: number) => {
    const track = trackOf(side);
    if (!track) return;
    const bar = Math.floor(beat / beatsPerBar) + 1;
    const span = aligned?.spans.find(
      (own) => bar >= own.referenceFirst && bar < own.referenceFirst + own.bars,
    );
    if (side === "version" && (!span || !aligned)) return;
    const time =
      side === "reference"
        ? secondsAt(grid, beat)
        : secondsAt(aligned!.version, beat + (span!.versionFirst - span!.referenceFirst) * beatsPerBar);
    set(track, (now) => withHit(now, { time, voice, velocity: 0.75 }), "Hit added");
  };
  const edit = (key: HitEdit, coarse: boolean) => {
    if (!chosen) return;
    const { hit } = chosen.own;
    const sign = key === "later" || key === "harder" ? 1 : -1;
    if (key === "away") removeChosen();
    else if (key === "otherVoice")
      editChosen(
        { voice: drumVoices[(drumVoices.indexOf(hit.voice) + 1) % drumVoices.length]! },
        "Voice of a hit changed",
      );
    else if (key === "later" || key === "earlier")
      editChosen({ time: hit.time + sign * (coarse ? 0.005 : 0.001) }, "Hit moved");
    else
      editChosen(
        { velocity: Math.min(1, Math.max(0.02, hit.velocity + sign * velocityStep * (coarse ? 4 : 1))) },
        "Velocity changed",
      );
  };
  return { editChosen, removeChosen, renameAlike, alike: alike.length, add, edit };
}
