import type { ComparedElement } from "@/core/match";
import type { ElementRecord } from "@/core/study";
import {
  allBut,
  isMuted,
  nothingMuted,
  onlyPart,
  sameMuted,
  toggled,
  type Muted,
} from "@/listening/engine/muting";
import { sides } from "@/listening/engine/timeline";
import { usePlayback } from "@/listening/Playback";
import { throughWords } from "@/models/elements";
import { stemsToHear } from "./stemsToHear";
import { useStudy } from "../study/StudyContext";

/** Hears an element alone or everything but it, on whichever side is playing, says how free it stands, and takes it along. */
export function HearElement({ element, compared }: { element: ElementRecord; compared: ComparedElement }) {
  const playback = usePlayback();
  const { study, version } = useStudy();
  const { lens } = element;
  const stems = stemsToHear(element, study.reference, version);
  if (!lens && Object.keys(stems).length === 0) return null;
  const { muted } = playback.settings;
  const [withStem, another] = sides.filter((side) => stems[side]);
  const ways = [
    { muted: onlyPart(lens, stems), label: "only this" },
    ...(lens ? [{ muted: allBut(lens), label: "all but this" }] : []),
    { muted: nothingMuted, label: "the whole" },
  ];
  const hear = (next: Muted) => {
    playback.change({ muted: next });
    if (!playback.playing) playback.toggle();
  };
  return (
    <div>
      <div className="d-flex gap-3 align-items-baseline" role="group" aria-label={`Hear ${element.name}`}>
        <span className="small-text soft">Hear</span>
        {ways.map((way) => (
          <button
            key={way.label}
            type="button"
            className="plain-button one-of"
            aria-pressed={sameMuted(muted, way.muted)}
            onClick={() => hear(way.muted)}
          >
            {way.label}
          </button>
        ))}
      </div>
      {lens && (
        <div className="d-flex gap-3 align-items-baseline" role="group" aria-label={`Mute ${element.name}`}>
          <span className="small-text soft">Mute in</span>
          {sides.map((side) => (
            <button
              key={side}
              type="button"
              className={`plain-button mute in-${side}`}
              aria-pressed={isMuted(muted, side, lens)}
              onClick={() => playback.change({ muted: toggled(muted, side, lens) })}
            >
              {side}
            </button>
          ))}
        </div>
      )}
      {lens && compared.through.kind === "lens" && (
        <p className="small-text soft m-0 mt-1" role="group" aria-label={`Save ${element.name}`}>
          WAV from bar 1:{" "}
          {[study.reference, version].flatMap((track) =>
            track
              ? [
                  { rest: "no", label: track.role === "reference" ? "reference" : `version ${track.number}` },
                  { rest: "yes", label: "all but it" },
                ].map(({ rest, label }) => (
                  <span key={`${track.id} ${rest}`}>
                    <a
                      className="plain-button underlined"
                      href={`/api/items/${track.id}/lens?part=${lens}&rest=${rest}&from=bar1`}
                      download
                    >
                      {label}
                    </a>
                    {rest === "no" ? ", " : track === version ? "" : " · "}
                  </span>
                ))
              : [],
          )}
        </p>
      )}
      <p className="small-text soft m-0 mt-1">
        {throughWords(compared.through)}
        {withStem && !another && ` Alone, the ${withStem} is heard by its stem.`}
      </p>
    </div>
  );
}
