"use client";

import Link from "next/link";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { z } from "zod";
import { AskFirst } from "@/components/AskFirst";
import { DropArea } from "@/components/DropArea";
import { EditableText } from "@/components/EditableText";
import { day, fixed, points } from "@/components/format";
import { HistoryLine } from "@/components/HistoryLine";
import { useNotices } from "@/components/Notices";
import { ProgressLine } from "@/components/ProgressLine";
import { send, sentenceOf, upload } from "@/components/requests";
import { useJobNews } from "@/components/useJobNews";
import { keyName, type Key } from "@/core/harmony/keys";

/** One study as the list shows it. */
export interface StudyRow {
  id: string;
  title: string;
  addedAt: number;
  artist: string | null;
  referenceFile: string | null;
  /** Whether an analysis is still to come. */
  pending: boolean;
  bpm: number | null;
  key: Key | null;
  /** What the analysis of the reference is at, where it is not done. */
  referenceState: string | null;
  versions: number;
  match: number | null;
  history: (number | null)[];
}

type Order = "newest" | "title" | "match";

const sorted = (rows: StudyRow[], order: Order): StudyRow[] =>
  [...rows].sort((a, b) =>
    order === "title"
      ? a.title.localeCompare(b.title)
      : order === "match"
        ? (b.match ?? -1) - (a.match ?? -1)
        : b.addedAt - a.addedAt,
  );

export function StudyList({ rows }: { rows: StudyRow[] }) {
  const router = useRouter();
  const { say } = useNotices();
  const [arriving, setArriving] = useState<{ name: string; done: number; cancel: () => void } | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const [leaving, setLeaving] = useState<StudyRow | null>(null);
  const [renaming, setRenaming] = useState<string | null>(null);
  const [order, setOrder] = useState<Order>("newest");
  useJobNews(
    rows.some((row) => row.pending),
    () => router.refresh(),
  );

  const begin = async ([file]: File[]) => {
    if (!file) return;
    setRefused(null);
    const { finished, cancel } = upload(`/api/studies?name=${encodeURIComponent(file.name)}`, file, (done) =>
      setArriving((now) => now && { ...now, done }),
    );
    setArriving({ name: file.name, done: 0, cancel });
    const outcome = await finished;
    setArriving(null);
    if (outcome.ok) router.push(`/studies/${outcome.value.studyId}/overview`);
    else setRefused(`${file.name}: ${sentenceOf(outcome.refusal)}`);
  };
  const beginEmpty = async () => {
    const made = await send(
      "POST",
      "/api/studies",
      { title: "Untitled study" },
      z.object({ studyId: z.string() }),
    );
    if (made.ok) router.push(`/studies/${made.value.studyId}/overview`);
    else say(sentenceOf(made.refusal));
  };
  const rename = async (row: StudyRow, title: string) => {
    const change = async (next: string) => {
      const outcome = await send("PATCH", `/api/studies/${row.id}`, { title: next });
      if (!outcome.ok) say(sentenceOf(outcome.refusal));
      router.refresh();
    };
    await change(title);
    say(`Renamed to “${title}”.`, () => change(row.title));
  };
  const remove = async (row: StudyRow) => {
    setLeaving(null);
    const outcome = await send("DELETE", `/api/studies/${row.id}`);
    say(outcome.ok ? `“${row.title}” was deleted.` : sentenceOf(outcome.refusal));
    router.refresh();
  };

  return (
    <>
      <DropArea
        title={rows.length === 0 ? "Begin with a reference track" : "New study"}
        forReference
        action="Choose the reference"
        onFiles={begin}
      >
        <p className="soft m-0">
          Drop the track you want to rebuild here. WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A, up to 20 minutes.
          It stays on this machine.
        </p>
        {arriving && (
          <div className="w-100 mt-1">
            <div className="d-flex justify-content-between small-text">
              <span>
                {arriving.done < 1 ? `Bringing in ${arriving.name}` : `Looking at ${arriving.name}`}
              </span>
              <button type="button" className="plain-button underlined" onClick={arriving.cancel}>
                Cancel
              </button>
            </div>
            <ProgressLine done={arriving.done} label="Upload" />
          </div>
        )}
        {refused && (
          <p className="needs-attention m-0" role="alert">
            {refused}
          </p>
        )}
        <p className="small-text soft m-0">
          or{" "}
          <button type="button" className="plain-button underlined" onClick={beginEmpty}>
            begin with an empty study
          </button>
        </p>
      </DropArea>

      {rows.length > 0 && (
        <section aria-label="Studies">
          <div className="d-flex justify-content-between align-items-baseline mb-2">
            <h1>Studies</h1>
            {rows.length > 1 && (
              <span className="choices" role="group" aria-label="Order">
                {(["newest", "title", "match"] as const).map((name) => (
                  <button
                    key={name}
                    type="button"
                    className="plain-button"
                    aria-pressed={order === name}
                    onClick={() => setOrder(name)}
                  >
                    {{ newest: "newest first", title: "by name", match: "closest first" }[name]}
                  </button>
                ))}
              </span>
            )}
          </div>
          <table className="ruled study-table">
            <thead>
              <tr>
                <th>Study</th>
                <th>Reference</th>
                <th className="number">Tempo</th>
                <th>Key</th>
                <th className="number">Versions</th>
                <th>Match over versions</th>
                <th className="number">Newest match</th>
                <th>
                  <span className="visually-hidden">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {sorted(rows, order).map((row) => (
                <tr key={row.id}>
                  <td>
                    {renaming === row.id ? (
                      <EditableText
                        value={row.title}
                        label={`Name of ${row.title}`}
                        empty=""
                        required
                        longest={120}
                        editing
                        onClose={() => setRenaming(null)}
                        onSave={(title) => rename(row, title)}
                      />
                    ) : (
                      <Link href={`/studies/${row.id}/overview`} className="strong">
                        {row.title}
                      </Link>
                    )}
                    <div className="small-text soft">begun {day(row.addedAt)}</div>
                  </td>
                  <td>
                    {row.referenceFile ? (
                      <>
                        <span className="in-reference">{row.artist ?? row.referenceFile}</span>
                        <div className="small-text soft">
                          {row.referenceState ?? (row.artist ? row.referenceFile : "")}
                        </div>
                      </>
                    ) : (
                      <span className="soft">none yet</span>
                    )}
                  </td>
                  <td className="number">{row.bpm === null ? "–" : `${fixed(row.bpm, 2)} BPM`}</td>
                  <td className="text-nowrap">{row.key ? keyName(row.key) : "–"}</td>
                  <td className="number">{row.versions}</td>
                  <td>
                    <HistoryLine
                      scores={row.history}
                      width={130}
                      label={`Match of ${row.title} over versions`}
                    />
                  </td>
                  <td className="number">
                    <span className="strong" style={{ fontSize: "1.375rem" }}>
                      {points(row.match)}
                    </span>
                  </td>
                  <td className="number small-text">
                    <span className="d-inline-flex gap-3">
                      <button
                        type="button"
                        className="plain-button underlined soft"
                        aria-label={`Rename ${row.title}`}
                        onClick={() => setRenaming(row.id)}
                      >
                        Rename
                      </button>
                      <button
                        type="button"
                        className="plain-button underlined soft"
                        aria-label={`Delete ${row.title}`}
                        onClick={() => setLeaving(row)}
                      >
                        Delete
                      </button>
                    </span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}

      {leaving && (
        <AskFirst
          title={`Delete “${leaving.title}”?`}
          action="Delete the study"
          onCancel={() => setLeaving(null)}
          onConfirm={() => remove(leaving)}
        >
          <p className="m-0">
            This deletes {leaving.referenceFile ? "its reference" : "the empty study"}
            {leaving.versions > 0
              ? `, ${leaving.versions === 1 ? "its one version" : `all ${leaving.versions} versions`} with their notes,`
              : ""}{" "}
            and the elements with everything noted about them. The files you brought are removed from Plain
            Mirror; your own copies are not touched. This cannot be undone.
          </p>
        </AskFirst>
      )}
    </>
  );
}
