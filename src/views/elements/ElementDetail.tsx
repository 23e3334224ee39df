"use client";

import { zodResolver } from "@hookform/resolvers/zod";
import Link from "next/link";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { soundsInUse } from "@/models/candidates";
import { points } from "@/models/format";
import { lensParts, type LensPart } from "@/core/lens/parts";
import { heardWords, lensTitles, targetWords } from "@/models/elements";
import { bestVersion } from "@/models/progress";
import type { BesideVocal, ComparedElement } from "@/core/match";
import type { ElementRecord, ElementState, HeardElements } from "@/core/study";
import { useStudy } from "../study/StudyContext";
import { AspectTable } from "./AspectTable";
import { CoveredBy } from "./CoveredBy";
import { HearElement } from "./HearElement";

const lensOf = (value: string): LensPart | null => lensParts.find((part) => part === value) ?? null;

const states: ElementState[] = ["not started", "in work", "close enough", "done", "left out"];

const fieldsSchema = z
  .object({
    name: z.string().trim().min(1, "Enter a name.").max(60),
    fromHz: z.number("Enter a frequency.").min(10, "At least 10 Hz.").max(22000, "At most 22000 Hz."),
    toHz: z.number("Enter a frequency.").min(10, "At least 10 Hz.").max(22000, "At most 22000 Hz."),
    weight: z.number("Enter a weight.").min(0, "0 at least.").max(10, "10 at most."),
    // An empty field has none.
    target: z
      .number()
      .or(z.nan())
      .nullable()
      .transform((own) => (own === null || Number.isNaN(own) ? null : own))
      .refine((own) => own === null || (own >= 1 && own <= 100), "From 1 to 100, or nothing."),
    note: z.string().trim().max(500),
  })
  .refine((fields) => fields.fromHz < fields.toHz, { path: ["toHz"], message: "Must be above the start." });

type Fields = z.output<typeof fieldsSchema>;

/** One element: its score down to the measures, and what the producer sets and notes about it. */
export function ElementDetail({
  element,
  compared,
  vocal,
  heard,
  others,
  onChange,
  onMerge,
  onSplit,
  onRemove,
}: {
  element: ElementRecord;
  compared: ComparedElement | null;
  /** Its level beside the vocal; null where there is none. */
  vocal: BesideVocal | null;
  /** What is heard of the reference; null where that is not known. */
  heard: HeardElements | null;
  /** The other elements of the study, any of which can be merged into this one. */
  others: readonly ElementRecord[];
  onChange(next: Partial<ElementRecord>): void;
  onMerge(other: ElementRecord): void;
  onSplit(): void;
  onRemove(): void;
}) {
  const { study, scores, version, addressOf, chooseVersion } = useStudy();
  const best = bestVersion(scores, ({ elements }) => elements[element.id]);
  const { name, fromHz, toHz, weight, target, note } = element;
  const sounds = soundsInUse(study.candidates, name);
  const {
    register,
    handleSubmit,
    formState: { errors, dirtyFields },
  } = useForm<Fields>({
    resolver: zodResolver(fieldsSchema),
    values: { name, fromHz, toHz, weight, target, note },
    mode: "onBlur",
  });
  // Leaving a field saves it; nothing has to be confirmed.
  const save = handleSubmit((fields) => {
    const next = Object.fromEntries(
      Object.keys(dirtyFields).map((key) => [key, fields[key as keyof Fields]]),
    ) as Partial<ElementRecord>;
    if (Object.keys(next).length > 0) onChange(next);
  });
  const field = (key: keyof Fields, label: string, numeric = false) => (
    <label className="field">
      {label}
      <input
        className="form-control form-control-sm"
        type={numeric ? "number" : "text"}
        step="any"
        aria-invalid={key in errors}
        {...register(key, { valueAsNumber: numeric, onBlur: save })}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
        }}
      />
      {errors[key] && (
        <span className="needs-attention" role="alert">
          {errors[key].message}
        </span>
      )}
    </label>
  );
  return (
    <aside aria-label={`About ${element.name}`} className="stacked align-content-start">
      <div>
        <h2>{element.name}</h2>
        <div className="answer mt-1">
          <span className="value">{element.state === "left out" ? "–" : points(compared?.score)}</span>
          <span className="soft">
            {compared?.spread && compared.spread >= 0.5 && element.state !== "left out"
              ? `± ${Math.round(compared.spread)} `
              : ""}
            of 100{element.state === "left out" ? ", left out" : ""}
          </span>
        </div>
        {target !== null && element.state !== "left out" && (
          <p className="small-text soft m-0">{targetWords(compared?.score ?? null, target)}</p>
        )}
        {heard && element.lens && <p className="small-text soft m-0">{heardWords(heard, element.lens)}</p>}
        {best && best.number !== version?.number && (
          <button
            type="button"
            className="plain-button underlined small-text soft"
            onClick={() => chooseVersion(best.number)}
          >
            Best so far: {points(best.elements[element.id])} in version {best.number}
          </button>
        )}
      </div>
      <label className="field">
        State
        <select
          className="form-select form-select-sm"
          value={element.state}
          onChange={(event) => onChange({ state: event.target.value as ElementState })}
        >
          {states.map((state) => (
            <option key={state}>{state}</option>
          ))}
        </select>
      </label>
      {compared && <HearElement element={element} compared={compared} />}
      {compared && <AspectTable element={element} compared={compared} vocal={vocal} />}
      {compared?.bars && <CoveredBy element={element} coverings={compared.bars.coverings} />}
      {sounds.length > 0 && (
        <ul className="findings m-0" aria-label="Sounds in use">
          {sounds.map(({ fileName, hit }) => (
            <li key={hit} className="finding">
              <Link className="title" href={addressOf("hits", { hit, look: "candidates" })}>
                {fileName}
              </Link>
              <span className="detail">In use for it, of the candidates.</span>
            </li>
          ))}
        </ul>
      )}
      <form className="stacked" onSubmit={(event) => event.preventDefault()}>
        {field("name", "Name")}
        <label className="field">
          Heard through
          <select
            className="form-select form-select-sm"
            value={element.lens ?? ""}
            onChange={(event) => onChange({ lens: lensOf(event.target.value) })}
          >
            {lensParts.map((part) => (
              <option key={part} value={part}>
                {lensTitles[part]}
              </option>
            ))}
            <option value="">a frequency range of the mix</option>
          </select>
        </label>
        <div className="field-pair">
          {field("fromHz", "Focus from, Hz", true)}
          {field("toHz", "to, Hz", true)}
        </div>
        <div className="field-pair">
          {field("weight", "Weight in the match", true)}
          {field("target", "Target, of 100", true)}
        </div>
        <label className="field">
          Note
          <textarea
            className="form-control form-control-sm"
            rows={3}
            {...register("note", { onBlur: save })}
          />
        </label>
      </form>
      {others.length > 0 && (
        <form
          className="d-flex gap-2 align-items-end"
          onSubmit={(event) => {
            event.preventDefault();
            const chosen = new FormData(event.currentTarget).get("other");
            const other = others.find(({ id }) => id === chosen);
            if (other) onMerge(other);
          }}
        >
          <label className="field flex-grow-1">
            Merge another into it
            <select className="form-select form-select-sm" name="other">
              {others.map(({ id, name: own }) => (
                <option key={id} value={id}>
                  {own}
                </option>
              ))}
            </select>
          </label>
          <button type="submit" className="plain-button underlined small-text mb-1">
            Merge
          </button>
        </form>
      )}
      <div className="d-flex gap-3">
        <button type="button" className="plain-button underlined soft small-text" onClick={onSplit}>
          Split into two layers
        </button>
        <button
          type="button"
          className="plain-button underlined soft small-text"
          onClick={() => onChange({ hidden: !element.hidden })}
        >
          {element.hidden ? "Show in the lists" : "Hide"}
        </button>
        <button type="button" className="plain-button underlined soft small-text" onClick={onRemove}>
          Remove {element.name}
        </button>
      </div>
    </aside>
  );
}
