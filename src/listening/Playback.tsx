"use client";

import { createContext, useContext, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import type { BarRange, Grid } from "@/core/grid/grid";
import { barStart, beatAt, positionAt, secondsAt } from "@/core/grid/grid";
import { cutOut, kWeightedStepsPerSecond, integratedLoudness } from "@/core/loudness";
import { coveredSpans, type AlignedBars, type Span } from "@/core/study";
import { decibelsToAmplitude } from "@/core/units";
import { floatsOf, useStoredCurve, type StoredCurve } from "@/components/useStoredCurve";
import type { DrumVoice } from "@/core/drums/voices";
import type { Accompaniment } from "./engine/sampler";
import { Player, plainPlayerSettings, type PlayerSettings, type PlayerTrack } from "./engine/player";
import { isMutedAlike, nothingMuted, withoutConflict } from "./engine/muting";
import {
  plainTimeline,
  referenceTimeline,
  segmentAfter,
  segmentAt,
  versionTimeline,
  type Side,
} from "./engine/timeline";

export type { Side } from "./engine/timeline";

/** What can be played on one side. */
export interface Playable {
  hash: string;
  sampleRate: number;
  seconds: number;
  grid: Grid | null;
}

interface PlaybackState {
  settings: PlayerSettings;
  playing: boolean;
  /** Whether sound that should be heard has not arrived. */
  waiting: boolean;
  /** Why a file could not be played. */
  trouble: string | null;
  equalLoudness: boolean;
  /** dB taken from each side for equal loudness; at most one is below 0. */
  trim: Record<Side, number>;
  available: Record<Side, boolean>;
  /** Whether the two are lined up by bars. */
  isAligned: boolean;
  /** Tempo of the recreation against that of the reference, by the bar; 1 where it is the same. */
  tempoRatio: number;
  /** Whether play goes round in the selection. */
  looping: boolean;
  /** Whether a blind test runs: nobody but the test then says or sees which side is heard. */
  blind: boolean;
  toggle(): void;
  listenTo(side: Side): void;
  /** Hears the other side, at the same place in the music. */
  flip(): void;
  /** To a time of the reference. */
  seek(seconds: number): void;
  /** Some bars on or back, to where a bar begins; seconds where there is no grid. */
  step(bars: number): void;
  change(next: Partial<PlayerSettings>): void;
  setEqualLoudness(on: boolean): void;
  setLooping(on: boolean): void;
  /** Begins or ends a blind test: what would give a side away is held, and put back at the end. */
  setBlind(on: boolean): void;
  /** Sounds a side in a blind test, behind the same short silence whether it is another one or not. */
  present(side: Side): void;
  /** Plays strokes of the practice kit with the music or in its place; null ends it. */
  accompany(next: Accompaniment | null): void;
  /** Sounds one stroke of the practice kit. */
  strike(voice: DrumVoice, velocity: number): void;
  /** Beats of the reference now, as `position`. */
  beat(): number;
  /** Time of the reference now; read it in an animation frame, it does not render. */
  position(): number;
  /** Bar and beat now; null without a grid. */
  place(): { bar: number; beat: number } | null;
}

const Context = createContext<PlaybackState | null>(null);

export function usePlayback(): PlaybackState {
  const state = useContext(Context);
  if (!state) throw new Error("usePlayback belongs inside Playback");
  return state;
}

const quieter = (own: number | null, other: number | null): number =>
  own === null || other === null ? 0 : Math.min(0, other - own);

/** What is kept from one visit to the next. */
interface Remembered {
  equalLoudness: boolean;
  click: number;
  together: boolean;
}
const storageKey = "listening";

function readRemembered(): Partial<Record<keyof Remembered, unknown>> {
  try {
    return JSON.parse(localStorage.getItem(storageKey) ?? "{}") as Record<string, unknown>;
  } catch {
    return {};
  }
}

function remember(next: Partial<Remembered>): void {
  try {
    localStorage.setItem(storageKey, JSON.stringify({ ...readRemembered(), ...next }));
  } catch {
    // Without storage the choice holds for this visit.
  }
}

/** Loudness of the selected part of each side, in LUFS. */
function useSelectionLoudness(
  reference: Playable | null,
  version: Playable | null,
  aligned: AlignedBars | null,
  selection: Span | null,
): Record<Side, number | null> {
  const own = useStoredCurve(reference?.hash ?? null, "kWeightedMeanSquares");
  const other = useStoredCurve(version?.hash ?? null, "kWeightedMeanSquares");
  return useMemo(() => {
    const spans = aligned ? coveredSpans(selection, aligned) : null;
    const of = (curve: StoredCurve | null, parts: readonly Span[] | null) => {
      if (!curve) return null;
      const squares = floatsOf(curve);
      const chosen = parts && parts.length > 0 ? cutOut(squares, kWeightedStepsPerSecond, parts) : squares;
      // A bar at a fast tempo may be too short for a gated measurement; the whole stands in for it.
      return integratedLoudness(chosen) ?? integratedLoudness(squares);
    };
    return {
      reference: of(own, spans?.reference ?? (selection ? [selection] : null)),
      version: of(other, spans?.version ?? null),
    };
  }, [own, other, aligned, selection]);
}

/** Plays reference and version in musical sync, at equal loudness unless told otherwise. */
export function Playback({
  reference,
  version,
  aligned,
  selection,
  bars,
  sections,
  children,
}: {
  reference: Playable | null;
  version: Playable | null;
  aligned: AlignedBars | null;
  selection: Span | null;
  bars: BarRange | null;
  /** First bars of the reference's sections. */
  sections: readonly number[];
  children: ReactNode;
}) {
  const [player, setPlayer] = useState<Player | null>(null);
  const [settings, setSettings] = useState<PlayerSettings>(plainPlayerSettings);
  const [heard, setHeard] = useState({ playing: false, waiting: false, activeSide: "reference" as Side });
  const [trouble, setTrouble] = useState<string | null>(null);
  const [equalLoudness, setEqualLoudness] = useState(true);
  const [looping, setLooping] = useState(true);
  const [blind, setBlindState] = useState(false);
  const beforeBlind = useRef<{
    settings: Pick<PlayerSettings, "activeSide" | "arrangement" | "together" | "trade" | "muted">;
    equalLoudness: boolean;
  } | null>(null);

  useEffect(() => {
    const made = new Player(
      ({ playing, waiting, activeSide }) =>
        setHeard((old) =>
          old.playing === playing && old.waiting === waiting && old.activeSide === activeSide
            ? old
            : { playing, waiting, activeSide },
        ),
      setTrouble,
    );
    // oxlint-disable-next-line react-hooks/set-state-in-effect -- the player needs the browser
    setPlayer(made);
    const kept = readRemembered();
    const begin: Partial<PlayerSettings> = {
      ...(typeof kept.click === "number" ? { click: kept.click } : {}),
      ...(typeof kept.together === "boolean" ? { together: kept.together } : {}),
    };
    made.change(begin);
    setSettings((old) => ({ ...old, ...begin }));
    if (typeof kept.equalLoudness === "boolean") setEqualLoudness(kept.equalLoudness);
    return () => made.close();
  }, []);

  const grid = reference?.grid ?? null;
  const tracks = useMemo((): Record<Side, PlayerTrack | null> => {
    const deck = (playable: Playable | null, timeline: PlayerTrack["timeline"]): PlayerTrack | null =>
      playable && {
        hash: playable.hash,
        sampleRate: playable.sampleRate,
        frames: Math.round(playable.seconds * playable.sampleRate),
        timeline,
      };
    return {
      reference: deck(
        reference,
        reference?.grid
          ? referenceTimeline(reference.grid, reference.seconds)
          : plainTimeline(reference?.seconds ?? 1),
      ),
      version: deck(
        version,
        aligned && version
          ? versionTimeline(aligned, version.seconds)
          : version?.grid && reference?.grid
            ? referenceTimeline(version.grid, version.seconds)
            : plainTimeline(version?.seconds ?? 1),
      ),
    };
  }, [reference, version, aligned]);
  // Every refresh of the page makes equal records anew; only a real change may touch what plays.
  const signature = useMemo(() => JSON.stringify(tracks), [tracks]);
  useEffect(() => {
    player?.setTracks(JSON.parse(signature) as typeof tracks);
  }, [player, signature]);

  const available = { reference: tracks.reference !== null, version: tracks.version !== null };
  const activeSide: Side = available[settings.activeSide]
    ? settings.activeSide
    : settings.activeSide === "reference"
      ? "version"
      : "reference";

  const loudness = useSelectionLoudness(reference, version, aligned, selection);
  const trim = useMemo(
    () => ({
      reference: quieter(loudness.reference, loudness.version),
      version: quieter(loudness.version, loudness.reference),
    }),
    [loudness],
  );
  const beatsPerBar = grid?.beatsPerBar ?? 4;
  useEffect(() => {
    player?.change({
      trim: {
        reference: equalLoudness ? decibelsToAmplitude(trim.reference) : 1,
        version: equalLoudness ? decibelsToAmplitude(trim.version) : 1,
      },
      beatsPerBar,
      activeSide,
    });
  }, [player, trim, equalLoudness, beatsPerBar, activeSide]);

  const loopFrom = selection && (grid ? beatAt(grid, selection.from) : selection.from);
  const loopTo = selection && (grid ? beatAt(grid, selection.to) : selection.to);
  useEffect(() => {
    const loop = looping && loopFrom !== null && loopTo !== null ? { from: loopFrom, to: loopTo } : null;
    player?.change({ loop });
  }, [player, looping, loopFrom, loopTo]);

  const sectionBeats = grid ? sections.map((bar) => (bar - 1) * grid.beatsPerBar) : [];
  const sectionsNow = sectionBeats.join(" ");
  useEffect(() => {
    player?.change({ sections: sectionsNow === "" ? [] : sectionsNow.split(" ").map(Number) });
  }, [player, sectionsNow]);

  // A new selection is where listening goes on.
  const selectedBars = bars ? `${bars.first}-${bars.last}` : null;
  useEffect(() => {
    if (!player || loopFrom === null || loopTo === null) return;
    const now = player.beat();
    if (now < loopFrom || now >= loopTo) player.seek(loopFrom);
    // Only a change of the selection moves the playhead, not one of the grid.
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, [player, selectedBars]);

  const apply = (next: Partial<PlayerSettings>, behindDip = false) => {
    setSettings((old) => ({ ...old, ...next }));
    if (behindDip) player?.changeBehindDip(next);
    else player?.change(next);
  };
  const change = (asked: Partial<PlayerSettings>) => {
    // Each of these would tell which side is heard.
    if (
      blind &&
      ("activeSide" in asked ||
        "trade" in asked ||
        "arrangement" in asked ||
        "blend" in asked ||
        (asked.muted && !isMutedAlike(asked.muted)) ||
        "together" in asked)
    )
      return;
    const next = withoutConflict(asked, settings.monitorFilter);
    apply(next);
    if (next.click !== undefined) remember({ click: next.click });
    if (next.together !== undefined) remember({ together: next.together });
  };
  const beatOf = (seconds: number) => (grid ? beatAt(grid, seconds) : seconds);
  const secondsOf = (beat: number) => (grid ? secondsAt(grid, beat) : beat);

  const tempoRatio = grid && aligned ? aligned.version.bpm / grid.bpm : 1;

  const state: PlaybackState = {
    // By turns it is the audio thread that says which side is heard.
    settings: {
      ...settings,
      activeSide: settings.trade !== null && heard.playing ? heard.activeSide : activeSide,
    },
    playing: heard.playing,
    waiting: heard.waiting,
    trouble,
    equalLoudness,
    trim,
    available,
    isAligned: aligned !== null,
    tempoRatio,
    looping,
    blind,
    toggle() {
      if (!player || !(available.reference || available.version)) return;
      if (heard.playing) player.pause();
      else {
        // From the start again where the end was reached.
        const side = tracks[activeSide];
        const beat = player.beat();
        if (side && !segmentAt(side.timeline, beat) && !segmentAfter(side.timeline, beat)) {
          player.seek(loopFrom ?? side.timeline[0]?.beat ?? 0);
        }
        void player.play();
      }
    },
    listenTo(side) {
      if (available[side] && !blind) change({ activeSide: side, trade: null });
    },
    flip() {
      if (blind) return;
      const now = settings.trade !== null && heard.playing ? heard.activeSide : activeSide;
      const other = now === "reference" ? "version" : "reference";
      if (available[other]) change({ activeSide: other, trade: null });
    },
    seek: (seconds) => player?.seek(beatOf(Math.max(0, seconds))),
    step(count) {
      if (!player) return;
      const beat = player.beat();
      if (!grid) {
        player.seek(Math.max(0, beat + 2 * count));
        return;
      }
      const { bar, beat: inBar } = positionAt(grid, secondsAt(grid, beat));
      // Back from the middle of a bar leads to its beginning first.
      const from = count < 0 && inBar > 1.5 ? bar + 1 : bar;
      player.seek(beatAt(grid, Math.max(0, barStart(grid, from + count))));
    },
    change,
    setEqualLoudness(on) {
      if (blind) return;
      setEqualLoudness(on);
      remember({ equalLoudness: on });
    },
    setLooping,
    setBlind(on) {
      if (on === blind) return;
      setBlindState(on);
      if (on) {
        const { arrangement, together, trade, muted } = settings;
        beforeBlind.current = {
          settings: { activeSide, arrangement, together, trade, muted },
          equalLoudness,
        };
        // A louder one, or one ear, would give itself away.
        setEqualLoudness(true);
        apply({ arrangement: "one", trade: null, ...(isMutedAlike(muted) ? {} : { muted: nothingMuted }) });
      } else if (beforeBlind.current) {
        setEqualLoudness(beforeBlind.current.equalLoudness);
        apply(beforeBlind.current.settings);
        beforeBlind.current = null;
      }
    },
    present(side) {
      apply({ activeSide: side }, true);
    },
    accompany: (next) => player?.accompany(next),
    strike: (voice, velocity) => void player?.strike(voice, velocity),
    beat: () => player?.beat() ?? 0,
    position: () => (player ? Math.max(0, secondsOf(player.beat())) : 0),
    place: () => (grid && player ? positionAt(grid, secondsAt(grid, player.beat())) : null),
  };
  return <Context.Provider value={state}>{children}</Context.Provider>;
}
