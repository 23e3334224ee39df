"use client";

import type { ElementRecord } from "@/core/study";
import type { ElementLane, ElementsModel } from "@/models/elements";
import { onlyPart } from "@/listening/engine/muting";
import { stemsToHear } from "./stemsToHear";
import { usePlayback } from "@/listening/Playback";
import { Lane } from "./Lane";
import { SetPresence } from "./SetPresence";
import { selectionInAddress } from "../study/state/useAddress";
import { useStudy } from "../study/StudyContext";

/**
 * Where each element plays: bars of the reference above the line, those that answer below it, as tall as
 * they are loud. A press on a section selects its bars and plays the element in them.
 */
export function ElementLanes({
  model,
  elements,
  chosen,
  onChoose,
}: {
  model: ElementsModel;
  elements: readonly ElementRecord[];
  chosen: string | null;
  onChoose(id: string): void;
}) {
  const { study, version, bars: selected, go } = useStudy();
  const { bars, sections, lanes } = model;
  const at = (bar: number) => `${(100 * (bar - 1)) / bars}%`;
  const playback = usePlayback();
  const corrected = elements.find(({ id }) => id === chosen && lanes[id]);
  const shown = elements.filter(({ id, state }) => lanes[id] && state !== "left out");
  return (
    <section className="element-lanes" aria-label="Where each plays">
      <h2>
        Where each plays{" "}
        <span className="small-text soft fw-normal">
          the reference above, yours below; missing and extra bars marked; pale: not told surely
          {shown.some(({ id }) => lanes[id]!.set.length > 0) && "; underlined: set by hand"}
        </span>
      </h2>
      <div className="lane-row" aria-hidden="true">
        <span />
        <div className="lane-sections tiny-text soft">
          {sections.map(({ name, firstBar }) => (
            <span key={firstBar} style={{ left: at(firstBar) }}>
              {name}
            </span>
          ))}
        </div>
      </div>
      {shown.map((element) => (
        <div key={element.id} className="lane-row">
          <button
            type="button"
            className={`plain-button lane-name small-text ${element.id === chosen ? "strong" : ""}`}
            onClick={() => onChoose(element.id)}
          >
            {element.name}
          </button>
          <div className="lane">
            <Lane lane={lanes[element.id]!} bars={bars} />
            {sections.map(({ name, firstBar, lastBar }) => (
              <button
                key={firstBar}
                type="button"
                className="lane-section"
                style={{ left: at(firstBar), width: `${(100 * (lastBar - firstBar + 1)) / bars}%` }}
                aria-pressed={selected?.first === firstBar && selected.last === lastBar}
                aria-label={`${element.name} in ${name}: ${inWords(lanes[element.id]!, firstBar, lastBar)}`}
                title={`${element.name} in ${name}: ${inWords(lanes[element.id]!, firstBar, lastBar)}`}
                onClick={() => {
                  go({ element: element.id, ...selectionInAddress({ first: firstBar, last: lastBar }) });
                  const stems = stemsToHear(element, study.reference, version);
                  playback.change({ muted: onlyPart(element.lens, stems) });
                  if (!playback.playing) playback.toggle();
                }}
              />
            ))}
          </div>
        </div>
      ))}
      {corrected && <SetPresence element={corrected} />}
    </section>
  );
}

/** How many bars of a section an element plays in on both sides. */
function inWords({ reference, version }: ElementLane, first: number, last: number): string {
  const of = (side: readonly (number | null)[]) =>
    side.slice(first - 1, last).filter((own) => own !== null && own > 0).length;
  const answered = version.slice(first - 1, last).filter((own) => own !== null).length;
  const all = last - first + 1;
  return `${of(reference)} of ${all} bars, yours ${answered === 0 ? "not recreated" : `${of(version)} of ${answered}`}`;
}
