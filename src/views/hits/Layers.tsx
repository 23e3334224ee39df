"use client";

import { lacking } from "@/core/hits/lacks";
import type { HitMeasures } from "@/core/hits/hitMeasures";
import { lackWords, layerWords, type ShownLayer } from "@/models/candidates";
import { points } from "@/models/format";
import type { LayersState } from "./useLayers";

const mostShown = 4;

/** What a candidate has too little of, and other candidates that would fill it, laid over it. */
export function Layers({
  reference,
  measures,
  found,
  chosen,
  nameOf,
  onFind,
  onChoose,
}: {
  reference: HitMeasures;
  measures: HitMeasures;
  found: LayersState;
  chosen: ShownLayer | null;
  nameOf(id: string): string;
  onFind(): void;
  onChoose(layer: ShownLayer | null): void;
}) {
  const lacks = lacking(reference, measures);
  if (lacks.length === 0) return null;
  return (
    <section aria-label="Layers">
      <h2>What it lacks</h2>
      <p className="mb-2">{lacks.map(lackWords).join("; ")}.</p>
      {found.state === "none" && (
        <button type="button" className="plain-button underlined" onClick={onFind}>
          Find a layer among the others
        </button>
      )}
      {found.state === "waiting" && (
        <p className="soft" role="status">
          Trying the others over it …
        </p>
      )}
      {found.state === "failed" && <p className="needs-attention">{found.sentence}</p>}
      {found.state === "there" && found.layers.length === 0 && (
        <p className="soft">None of the others brings it nearer.</p>
      )}
      {found.state === "there" && found.layers.length > 0 && (
        <ul className="layer-list" aria-label="Layers, best first">
          {found.layers.slice(0, mostShown).map((layer) => (
            <li key={layer.id}>
              <button
                type="button"
                className="plain-button"
                aria-pressed={chosen?.id === layer.id}
                onClick={() => onChoose(chosen?.id === layer.id ? null : layer)}
              >
                <span className="clip">{nameOf(layer.id)}</span>{" "}
                <span className="strong">{points(layer.score)}</span>
              </button>
              <span className="soft small-text">{layerWords(layer)}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
