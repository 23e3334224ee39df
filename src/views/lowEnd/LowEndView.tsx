"use client";

import { useSearchParams } from "next/navigation";
import { useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { download } from "@/components/download";
import { useAfterFirstPaint } from "@/components/useAfterFirstPaint";
import { useAfterPaint } from "@/components/useAfterPaint";
import { Choices } from "@/components/Choices";
import { NumberField } from "@/components/NumberField";
import { bassMidi } from "@/core/formats/bassMidi";
import { barsOf, spanOfBars } from "@/core/grid/grid";
import { decibelsToAmplitude } from "@/core/units";
import { countedBass, belowHearing, defaultCutOff, measureLowEnd } from "@/core/lowEnd";
import { unpackBass } from "@/core/lowEnd/packedBass";
import { coveredSpans, tracksOf, type AlignedBars } from "@/core/study";
import { bassLines } from "@/models/bassLine";
import { usePlayback } from "@/listening/Playback";
import { fullestBar, lowEndFindings, smallSpeakerWords, type LowEndModel } from "@/models/lowEnd";
import { NotYet, useWhere } from "../study/Compared";
import { useStudy } from "../study/StudyContext";
import { BassAnswer } from "./BassAnswer";
import { BassLine } from "./BassLine";
import { KickOverKick } from "./KickOverKick";
import { LowFigures } from "./LowFigures";
import { LowPicture } from "./LowPicture";
import { useLowEnd } from "./useLowEnd";

const looks = [
  { value: "picture", title: "kick and bass" },
  { value: "bass", title: "bass line" },
] as const;

const zooms = [
  { name: "a beat", bars: 1, beats: 1 },
  { name: "a bar", bars: 1, beats: null },
  { name: "4 bars", bars: 4, beats: null },
  { name: "8 bars", bars: 8, beats: null },
] as const;

export function LowEndView({ model }: { model: LowEndModel | null }) {
  const { version, aligned } = useStudy();
  if (model && version && aligned) return <Compared model={model} aligned={aligned} />;
  return model && version ? (
    <div className="view-heading">
      <h1>Low end</h1>
      <p>The two could not be aligned by bars. Set bar 1 of both in the Grid view.</p>
    </div>
  ) : (
    <NotYet title="Low end" what="kick and bass" toCome="Kick and bass appear here" />
  );
}

function Compared({ model, aligned }: { model: LowEndModel; aligned: AlignedBars }) {
  const { version, bars: selected, selectBars, facts, study, go } = useStudy();
  const look = useSearchParams().get("look") === "bass" ? "bass" : "picture";
  const playback = usePlayback();
  const [cutOff, setCutOff] = useState<number>(defaultCutOff);
  const carried = smallSpeakerWords(model);
  const [deepest, setDeepest] = useState<number>(belowHearing);
  const [zoom, setZoom] = useState<(typeof zooms)[number]["name"]>("4 bars");
  const where = useWhere();
  // Measuring and drawing take a tenth of a second: the frame of the view stands first.
  const isDrawn = useAfterFirstPaint();
  const bands = {
    reference: useLowEnd(model.reference.hash, cutOff, deepest),
    version: useLowEnd(model.version.hash, cutOff, deepest),
  };
  const reference = isDrawn ? bands.reference : null;
  const other = isDrawn ? bands.version : null;
  const bass = useMemo(() => {
    const of = (side: "reference" | "version") => {
      const track = tracksOf(study).find(({ id }) => id === model[side].itemId);
      return countedBass(unpackBass(model[side].bass), track?.corrections.bass ?? {});
    };
    return { reference: of("reference"), version: of("version") };
  }, [model, study]);
  const kicks = useMemo(
    () => ({ reference: model.reference.kicks, version: model.version.kicks }),
    [model.reference.kicks, model.version.kicks],
  );
  const lines = useMemo(
    () => bassLines(bass, kicks, model.chords, aligned, model.semitones),
    [bass, kicks, model.chords, model.semitones, aligned],
  );
  const measured = useAfterPaint(() => {
    if (!reference || !other) return null;
    const spans = coveredSpans(selected && spanOfBars(aligned.reference, selected), aligned);
    if (spans.reference.length === 0) return "nothing" as const;
    const of = (side: "reference" | "version", band: typeof reference) =>
      measureLowEnd(band, model[side].kicks, bass[side], model[side].beat, spans[side]);
    const isIn = (side: "reference" | "version") =>
      bass[side].filter(({ start }) => spans[side].some(({ from, to }) => start >= from && start < to));
    return {
      reference: of("reference", reference),
      version: of("version", other),
      notes: { reference: isIn("reference"), version: isIn("version") },
    };
  }, [reference, other, model, bass, aligned, selected]);
  const loudness = (trackId: string | undefined) => (trackId ? facts[trackId]?.integratedLufs : null) ?? null;
  const [ours, theirs] = [loudness(study.reference?.id), loudness(version!.id)];
  const gain = ours === null || theirs === null ? 1 : decibelsToAmplitude(ours - theirs);
  const { bars: count, beats } = zooms.find(({ name }) => name === zoom)!;
  const all = barsOf(aligned.reference);
  const fullest = useMemo(
    () =>
      fullestBar(
        model,
        // By the notes as they were heard, so that the picture stays put while they are corrected.
        unpackBass(model.reference.bass).map(({ start }) => start),
        aligned,
      ),
    [model, aligned],
  );
  const start = selected?.first ?? fullest;
  const first = Math.max(1, Math.min(start, Math.max(1, all.last - count + 1)));
  const shown = { first, last: Math.min(all.last, first + count - 1) };
  const findings =
    measured && measured !== "nothing"
      ? lowEndFindings(measured.reference, measured.version, measured.notes, deepest)
      : [];
  const exported = (side: "reference" | "version") =>
    download(
      `${model[side].title} bass.mid`,
      new Blob(
        [bassMidi(bass[side], aligned[side], `${model[side].title} bass`) as Uint8Array<ArrayBuffer>],
        {
          type: "audio/midi",
        },
      ),
    );
  return (
    <div className="low-end-view">
      <div>
        <div className="view-heading in-line">
          <h1>Low end</h1>
          <p>{count === 1 ? `bar ${shown.first}` : `bars ${shown.first} to ${shown.last}`}</p>
          <Choices
            label="What to look at"
            choices={looks}
            chosen={look}
            onChoose={(value) => go({ look: value === "bass" ? value : null })}
          />
          <Choices<(typeof zooms)[number]["name"]>
            label="What is shown"
            className="ms-auto align-items-center"
            choices={zooms.map(({ name }) => ({ value: name, title: name }))}
            chosen={zoom}
            onChoose={setZoom}
          >
            {look === "picture" && (
              <label className="d-inline-flex align-items-center gap-2 me-3">
                below
                <NumberField
                  label="Cut-off in hertz"
                  value={cutOff}
                  min={40}
                  max={200}
                  step={5}
                  onSave={setCutOff}
                />
                Hz
              </label>
            )}
          </Choices>
        </div>
        {look === "bass" ? (
          <BassLine
            lines={lines}
            itemIds={{ reference: model.reference.itemId, version: model.version.itemId }}
            counted={bass}
            kicks={kicks}
            powers={{ reference: reference?.restPower ?? null, version: other?.restPower ?? null }}
            chords={model.chords}
            aligned={aligned}
            bars={shown}
            numberName={`Version ${version!.number}`}
          />
        ) : reference && other ? (
          <LowPicture
            reference={reference}
            version={other}
            notes={bass}
            aligned={aligned}
            bars={shown}
            beats={beats}
            onBars={selectBars}
            gain={gain}
            deepest={deepest}
          />
        ) : (
          <p className="soft low-waiting">Filtering …</p>
        )}
        {measured === "nothing" && <p>Nothing of this selection is recreated.</p>}
        {look === "picture" && measured && measured !== "nothing" && reference && other && (
          <div className="low-figures">
            <KickOverKick
              reference={{
                band: reference,
                measures: measured.reference,
                kicks: model.reference.kicks,
                beat: model.reference.beat ?? 0.5,
              }}
              version={{
                band: other,
                measures: measured.version,
                kicks: model.version.kicks,
                beat: model.version.beat ?? 0.5,
              }}
            />
            <LowFigures
              {...measured}
              versionNumber={version!.number}
              where={where}
              deepest={deepest}
              onDeepest={setDeepest}
            />
          </div>
        )}
      </div>
      <aside aria-label="What to do about the low end">
        {look === "bass" && <BassAnswer lines={lines} model={model} onBars={selectBars} />}
        {look === "picture" && measured && measured !== "nothing" && findings.length === 0 && (
          <p className="strong">Kick and bass share the low end as in the reference.</p>
        )}
        <ul className="findings" aria-label="What differs">
          {(look === "picture" ? findings : []).map(({ key, title, detail, isWarning }) => (
            <li key={key} className="finding">
              <span className={`title${isWarning ? " needs-attention" : ""}`}>{title}</span>
              <span className="detail">{detail}</span>
            </li>
          ))}
        </ul>
        <section aria-label="Listen">
          <h2>Can&apos;t hear it here?</h2>
          <p className="mb-2">What is drawn is what small speakers leave out.</p>
          {carried && <p className="mb-2">{carried}</p>}
          <div className="d-flex gap-2 flex-wrap">
            {(["low", "lowOctave"] as const).map((filter) => {
              const isOn = playback.settings.monitorFilter === filter;
              return (
                <Button
                  key={filter}
                  size="sm"
                  variant={isOn ? "primary" : "quiet"}
                  aria-pressed={isOn}
                  onClick={() => playback.change({ monitorFilter: isOn ? "everything" : filter })}
                >
                  {filter === "low" ? "Hear only below 100 Hz" : "An octave up"}
                </Button>
              );
            })}
          </div>
        </section>
        <section aria-label="Export">
          <h2>Bass line as MIDI</h2>
          <p className="mb-0">
            <button type="button" className="plain-button" onClick={() => exported("reference")}>
              the reference&apos;s
            </button>
            {" · "}
            <button type="button" className="plain-button" onClick={() => exported("version")}>
              yours
            </button>
          </p>
        </section>
      </aside>
    </div>
  );
}
