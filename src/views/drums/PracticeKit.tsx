"use client";

import { useEffect, useState } from "react";
import { usePlayback, type Side } from "@/listening/Playback";
import type { DrumsShown } from "@/models/drumsShown";

/** Hears a pattern on the practice kit: by itself, or over the music, at whatever speed is set. */
export function PracticeKit({ shown, compares }: { shown: DrumsShown; compares: boolean }) {
  const playback = usePlayback();
  const [side, setSide] = useState<Side | null>(null);
  const [alone, setAlone] = useState(true);
  const { accompany } = playback;

  useEffect(() => {
    if (!side) {
      accompany(null);
      return;
    }
    const strikes =
      side === "reference"
        ? shown.placed.map(({ beat, hit }) => ({ beat, voice: hit.voice, velocity: hit.velocity }))
        : (shown.compared?.hits ?? []).flatMap(({ version }) =>
            version ? [{ beat: version.beat, voice: version.hit.voice, velocity: version.hit.velocity }] : [],
          );
    accompany({ strikes: strikes.sort((a, b) => a.beat - b.beat), alone });
    // The player is the same as long as the page stands; its functions are made anew at each render.
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, [side, alone, shown]);
  // oxlint-disable-next-line react-hooks/exhaustive-deps -- only leaving the view ends it
  useEffect(() => () => accompany(null), []);

  const choose = (next: Side) => {
    setSide(side === next ? null : next);
    if (side !== next && !playback.playing) playback.toggle();
  };
  return (
    <span className="choices ms-auto" role="group" aria-label="Practice kit">
      <span className="small-text soft">play on the practice kit</span>
      {(["reference", ...(compares ? ["version"] : [])] as Side[]).map((own) => (
        <button
          key={own}
          type="button"
          className="plain-button"
          aria-pressed={side === own}
          onClick={() => choose(own)}
        >
          {own === "reference" ? "reference" : "yours"}
        </button>
      ))}
      <button type="button" className="plain-button" aria-pressed={!alone} onClick={() => setAlone(!alone)}>
        over the music
      </button>
    </span>
  );
}
