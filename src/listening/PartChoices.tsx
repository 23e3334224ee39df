import { lensParts } from "@/core/lens/parts";
import { OneOf } from "./choices";
import { isMuted, nothingMuted, onlyPart, sameMuted, toggled } from "./engine/muting";
import { sides } from "./engine/timeline";
import { usePlayback } from "./Playback";

/** Each part that the lens lifts out: alone on both sides, or muted on either. */
export function PartChoices() {
  const { settings, change, blind } = usePlayback();
  const { muted } = settings;
  return (
    <div className="lens-choices">
      {lensParts.map((part) => (
        <div key={part} role="group" aria-label={part}>
          <span className="soft">{part}</span>
          <OneOf
            chosen={sameMuted(muted, onlyPart(part))}
            onChoose={() =>
              change({ muted: sameMuted(muted, onlyPart(part)) ? nothingMuted : onlyPart(part) })
            }
          >
            only
          </OneOf>
          {sides.map((side) => (
            <button
              key={side}
              type="button"
              className={`plain-button mute in-${side}`}
              aria-label={`Mute in the ${side}`}
              aria-pressed={isMuted(muted, side, part)}
              disabled={blind}
              onClick={() => change({ muted: toggled(muted, side, part) })}
            >
              {side}
            </button>
          ))}
        </div>
      ))}
      <OneOf chosen={sameMuted(muted, nothingMuted)} onChoose={() => change({ muted: nothingMuted })}>
        all parts
      </OneOf>
    </div>
  );
}
