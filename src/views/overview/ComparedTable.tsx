"use client";

import { Fragment } from "react";
import { fixed, points, signed } from "@/models/format";
import { HistoryLine } from "@/components/HistoryLine";
import { measureRules, truePeakCeiling, type MixAspect } from "@/core/match";
import type { VersionScores } from "@/core/study";
import { aspectTitles } from "@/models/aspectTitles";
import { measureTitles, mixGapWords, valueWords } from "@/models/measureWords";
import { NumberField } from "@/components/NumberField";
import { useEdits, useStudy } from "../study/StudyContext";
import type { OverviewModel } from "@/models/overview";
import { ReferenceName } from "../study/ReferenceName";

/** Aspect by aspect: both values, the gap, the score; a row opens to where its score comes from. */
export function ComparedTable({
  model,
  scores,
  open,
  onOpen,
}: {
  model: OverviewModel;
  scores: VersionScores[];
  open: MixAspect | null;
  onOpen(aspect: MixAspect | null): void;
}) {
  const { study } = useStudy();
  const { edit } = useEdits();
  const setWeight = (aspect: MixAspect, weight: number) =>
    edit(`Weight of ${aspectTitles[aspect].toLowerCase()} set to ${weight}`, (now) => ({
      ...now,
      study: { ...now.study, aspectWeights: { ...now.study.aspectWeights, [aspect]: weight } },
    }));
  const peak = {
    reference: model.reference.loudness.truePeakDbtp,
    version: model.version.loudness.truePeakDbtp,
  };
  return (
    <table className="ruled compared-table">
      <thead>
        <tr>
          <th>Aspect</th>
          <th>
            <span className="visually-hidden">Measure</span>
          </th>
          <th className="number in-reference">
            <ReferenceName />
          </th>
          <th className="number in-version">Version</th>
          <th className="number">Gap</th>
          <th className="over-versions">Over versions</th>
          <th className="number">Score</th>
        </tr>
      </thead>
      <tbody>
        {model.aspects.map((aspect) => (
          <Fragment key={aspect.name}>
            {aspect.measures.map((measure, i) => (
              <tr key={measure.name} className={i > 0 ? "follows" : undefined}>
                <td className="text-nowrap">
                  {i === 0 && (
                    <button
                      type="button"
                      className="plain-button strong"
                      aria-expanded={open === aspect.name}
                      onClick={() => onOpen(open === aspect.name ? null : aspect.name)}
                    >
                      {aspectTitles[aspect.name]}{" "}
                      <span className="soft" aria-hidden="true">
                        {open === aspect.name ? "▴" : "▾"}
                      </span>
                    </button>
                  )}
                </td>
                <td className="soft small-text text-nowrap">
                  {measureTitles[measure.name] ?? ""}
                  {measure.typical && ", against the style"}
                </td>
                <td className="number">{valueWords(measure, "reference", model)}</td>
                <td className="number">{valueWords(measure, "version", model)}</td>
                <td className="number">{mixGapWords(measure)}</td>
                {i === 0 && (
                  <>
                    <td rowSpan={aspect.measures.length} className="over-versions">
                      <HistoryLine
                        scores={scores.map((s) => s.aspects[aspect.name])}
                        label={`${aspectTitles[aspect.name]} over versions`}
                      />
                    </td>
                    <td className="number score" rowSpan={aspect.measures.length}>
                      {points(aspect.score)}
                    </td>
                  </>
                )}
              </tr>
            ))}
            {open === aspect.name && (
              <tr className="explanation">
                <td colSpan={7}>
                  {aspect.measures.map((measure) => {
                    const rule = measureRules[measure.name];
                    return (
                      <p key={measure.name} className="mb-1">
                        <span className="strong">
                          {rule.title}
                          {measure.score === null ? "" : ` ${points(measure.score)}`}:
                        </span>{" "}
                        {!rule.isShare &&
                          `A gap of up to ${rule.justNoticeable} ${rule.unit} scores 100; every further ${rule.halving} ${rule.unit} halves it. `}
                        {rule.reason}
                        {measure.typical && " Held against the yardstick, not the reference."}
                        {measure.remark && (
                          <>
                            {" "}
                            <span className="needs-attention">{measure.remark}</span>
                          </>
                        )}
                      </p>
                    );
                  })}
                  <label className="d-inline-flex align-items-center gap-2 mt-1">
                    Weight in the match
                    <NumberField
                      value={study.aspectWeights[aspect.name]}
                      label={`Weight of ${aspectTitles[aspect.name].toLowerCase()}`}
                      min={0}
                      max={10}
                      step={0.5}
                      onSave={(next) => setWeight(aspect.name, next)}
                    />
                  </label>
                </td>
              </tr>
            )}
          </Fragment>
        ))}
        <tr>
          <td className="strong">True peak</td>
          <td />
          <td className="number">{fixed(peak.reference)} dBTP</td>
          <td
            className={`number${peak.version !== null && peak.version > truePeakCeiling ? " needs-attention strong" : ""}`}
          >
            {fixed(peak.version)} dBTP
          </td>
          <td className="number">
            {peak.reference === null || peak.version === null
              ? "–"
              : `${signed(peak.version - peak.reference)} dB`}
          </td>
          <td className="soft small-text" colSpan={2}>
            not scored
          </td>
        </tr>
      </tbody>
    </table>
  );
}
