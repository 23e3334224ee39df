"use client";

import { useEffect, useRef, useState } from "react";
import { useNotices } from "@/components/Notices";

/** Seconds from one stroke to the next while a hit is looped: half a bar at 120 BPM. */
const loopSeconds = 1;

export interface OneShotPlayer {
  /** What sounds over and over; null where nothing does. */
  looped: string | null;
  play(address: string): void;
  loop(address: string): void;
  stop(): void;
}

/** Plays short sounds from an address, once or over and over. */
export function useOneShot(): OneShotPlayer {
  const { say } = useNotices();
  const context = useRef<AudioContext | null>(null);
  const sounding = useRef<AudioBufferSourceNode[]>([]);
  const sounds = useRef(new Map<string, AudioBuffer>());
  const timer = useRef<ReturnType<typeof setInterval>>(undefined);
  const wanted = useRef<string | null>(null);
  const [looped, setLooped] = useState<string | null>(null);

  const silence = () => {
    clearInterval(timer.current);
    for (const source of sounding.current) source.stop();
    sounding.current = [];
  };
  useEffect(
    () => () => {
      silence();
      void context.current?.close();
    },
    [],
  );

  async function soundOf(address: string): Promise<AudioBuffer | null> {
    const known = sounds.current.get(address);
    if (known) return known;
    const response = await fetch(address);
    if (!response.ok) return null;
    const sound = await context.current!.decodeAudioData(await response.arrayBuffer());
    sounds.current.set(address, sound);
    return sound;
  }
  const strike = (sound: AudioBuffer) => {
    const source = context.current!.createBufferSource();
    source.buffer = sound;
    source.connect(context.current!.destination);
    source.onended = () => {
      sounding.current = sounding.current.filter((own) => own !== source);
    };
    sounding.current.push(source);
    source.start();
  };
  const begin = async (address: string, isLooped: boolean) => {
    context.current ??= new AudioContext();
    silence();
    wanted.current = address;
    setLooped(isLooped ? address : null);
    await context.current.resume();
    const sound = await soundOf(address).catch(() => null);
    // Something else may have been asked for meanwhile.
    if (wanted.current !== address) return;
    if (!sound) {
      setLooped(null);
      say("This sound can’t be loaded. Try again in a moment.");
      return;
    }
    strike(sound);
    if (isLooped) timer.current = setInterval(() => strike(sound), 1000 * loopSeconds);
  };
  return {
    looped,
    play: (address) => void begin(address, false),
    loop: (address) => void begin(address, true),
    stop: () => {
      wanted.current = null;
      setLooped(null);
      silence();
    },
  };
}
