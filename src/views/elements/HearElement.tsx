import type { ComparedElement } from "@/core/match";
import type { ElementRecord } from "@/core/study";
import { usePlayback } from "@/listening/Playback";
import { standing } from "@/models/elements";

/** Hears an element alone or everything but it, on whichever side is playing, and says how free it stands. */
export function HearElement({ element, compared }: { element: ElementRecord; compared: ComparedElement }) {
  const playback = usePlayback();
  const { lens } = element;
  if (!lens) return null;
  const { monitorFilter } = playback.settings;
  const ways = [
    { filter: lens, label: "only this" },
    { filter: `without-${lens}` as const, label: "all but this" },
    { filter: "everything" as const, label: "the whole" },
  ];
  const choose = (filter: (typeof ways)[number]["filter"]) => {
    playback.change({ monitorFilter: filter });
    if (!playback.playing) playback.toggle();
  };
  return (
    <div>
      <div className="d-flex gap-3 align-items-baseline" role="group" aria-label={`Hear ${element.name}`}>
        <span className="small-text soft">Hear</span>
        {ways.map(({ filter, label }) => (
          <button
            key={filter}
            type="button"
            className="plain-button one-of"
            aria-pressed={monitorFilter === filter}
            onClick={() => choose(filter)}
          >
            {label}
          </button>
        ))}
      </div>
      <p className="small-text soft m-0 mt-1">
        {compared.through.kind === "lens"
          ? `Through the lens it ${standing(compared.through.freeDb).sentence}.`
          : "Not lifted out of both mixes yet; measured in its frequency range meanwhile."}
      </p>
    </div>
  );
}
