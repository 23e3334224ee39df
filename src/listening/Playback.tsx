"use client";

import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ReactNode,
} from "react";

export type Side = "reference" | "recreation";

/** What can be played on one side. */
export interface Playable {
  hash: string;
  integratedLufs: number | null;
}

interface PlaybackState {
  side: Side;
  playing: boolean;
  /** Why a file could not be played. */
  trouble: string | null;
  equalLoudness: boolean;
  /** dB taken from each side for equal loudness; at most one is below 0. */
  trim: Record<Side, number>;
  available: Record<Side, boolean>;
  toggle(): void;
  stop(): void;
  listenTo(side: Side): void;
  seek(seconds: number): void;
  setEqualLoudness(on: boolean): void;
  /** Seconds now; read it in an animation frame, it does not render. */
  position(): number;
}

const Context = createContext<PlaybackState | null>(null);

export function usePlayback(): PlaybackState {
  const state = useContext(Context);
  if (!state) throw new Error("usePlayback belongs inside Playback");
  return state;
}

const quieter = (own: number | null, other: number | null): number =>
  own === null || other === null ? 0 : Math.min(0, other - own);

/** Plays the reference or the version, one at a time, at equal loudness unless told otherwise. */
export function Playback({
  reference,
  recreation,
  children,
}: {
  reference: Playable | null;
  recreation: Playable | null;
  children: ReactNode;
}) {
  const players = useRef<Partial<Record<Side, HTMLAudioElement>>>({});
  const at = useRef(0);
  const [wanted, setWanted] = useState<Side>("reference");
  const [playing, setPlaying] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [equalLoudness, setEqualLoudness] = useState(true);
  const hashes = { reference: reference?.hash ?? null, recreation: recreation?.hash ?? null };
  const side: Side = hashes[wanted] ? wanted : wanted === "reference" ? "recreation" : "reference";
  const trim = useMemo(
    () => ({
      reference: quieter(reference?.integratedLufs ?? null, recreation?.integratedLufs ?? null),
      recreation: quieter(recreation?.integratedLufs ?? null, reference?.integratedLufs ?? null),
    }),
    [reference?.integratedLufs, recreation?.integratedLufs],
  );

  const playerOf = useCallback((which: Side, hash: string): HTMLAudioElement => {
    const address = `/api/files/${hash}/audio`;
    let player = players.current[which];
    if (!player) {
      player = new Audio();
      player.preload = "auto";
      players.current[which] = player;
    }
    if (player.getAttribute("src") !== address) {
      player.src = address;
      player.load();
    }
    return player;
  }, []);

  // Both sides are made ready early, so that the first sound comes at once.
  useEffect(() => {
    if (hashes.reference) playerOf("reference", hashes.reference);
    if (hashes.recreation) playerOf("recreation", hashes.recreation);
  }, [hashes.reference, hashes.recreation, playerOf]);

  useEffect(() => {
    for (const which of ["reference", "recreation"] as const) {
      const player = players.current[which];
      if (player) player.volume = equalLoudness ? 10 ** (trim[which] / 20) : 1;
    }
  }, [equalLoudness, trim, playing, side]);

  const begin = useCallback(
    (which: Side, hash: string, seconds: number) => {
      const player = playerOf(which, hash);
      player.onended = () => {
        at.current = 0;
        setPlaying(false);
      };
      player.onerror = () => {
        setPlaying(false);
        setTrouble("This browser cannot play the file.");
      };
      const start = () => {
        player.currentTime = Math.min(
          seconds,
          Number.isFinite(player.duration) ? Math.max(0, player.duration - 0.05) : seconds,
        );
        player.play().catch(() => setPlaying(false));
      };
      if (player.readyState >= 1) start();
      else player.onloadedmetadata = start;
      setTrouble(null);
      setPlaying(true);
    },
    [playerOf],
  );

  const pauseAll = useCallback(() => {
    for (const player of Object.values(players.current)) player?.pause();
  }, []);
  const position = useCallback(() => {
    const player = players.current[side];
    if (playing && player && player.readyState >= 1 && !player.seeking) at.current = player.currentTime;
    return at.current;
  }, [side, playing]);

  useEffect(() => {
    const all = players.current;
    return () => {
      for (const player of Object.values(all)) {
        player?.pause();
        player?.removeAttribute("src");
      }
    };
  }, []);

  const state: PlaybackState = {
    side,
    playing,
    trouble,
    equalLoudness,
    trim,
    available: { reference: hashes.reference !== null, recreation: hashes.recreation !== null },
    toggle() {
      const hash = hashes[side];
      if (!hash) return;
      if (playing) {
        position();
        pauseAll();
        setPlaying(false);
      } else begin(side, hash, at.current);
    },
    stop() {
      pauseAll();
      setPlaying(false);
      at.current = 0;
    },
    listenTo(next) {
      const hash = hashes[next];
      if (!hash || next === side) return;
      const now = position();
      pauseAll();
      setWanted(next);
      if (playing) begin(next, hash, now);
    },
    seek(seconds) {
      at.current = Math.max(0, seconds);
      const hash = hashes[side];
      if (playing && hash) begin(side, hash, at.current);
    },
    setEqualLoudness,
    position,
  };
  return <Context.Provider value={state}>{children}</Context.Provider>;
}
