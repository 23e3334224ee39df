"use client";

import Link from "next/link";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { z } from "zod";
import { accepted, DropArea } from "@/components/DropArea";
import { EditableText } from "@/components/EditableText";
import { day, fixed, points } from "@/models/format";
import { HistoryLine } from "@/components/HistoryLine";
import { useNotices } from "@/components/Notices";
import { SortFiles, type SortedFile } from "@/components/SortFiles";
import { ProgressLine } from "@/components/ProgressLine";
import { send, sentenceOf, upload } from "@/components/requests";
import { useRefresh } from "@/components/useRefresh";
import type { Json } from "@/core/edits/patch";
import { keyName } from "@/core/harmony/keys";
import type { RemovedStudy, StudyRow, StudySummary } from "@/core/study";
import { RemovedStudies } from "./RemovedStudies";

interface Row extends StudySummary {
  id: string;
  title: string;
  addedAt: number;
  /** Whether what is known of it can be read. */
  isReadable: boolean;
}

const unreadable: StudySummary = {
  artist: null,
  referenceFile: null,
  pending: false,
  bpm: null,
  key: null,
  referenceState: null,
  versions: 0,
  match: null,
  history: [],
};

const asRow = ({ id, title, addedAt, summary }: StudyRow): Row => ({
  id,
  title,
  addedAt,
  ...(summary ?? unreadable),
  isReadable: summary !== null,
});

type Order = "newest" | "title" | "match";

const sorted = (rows: readonly Row[], order: Order): Row[] =>
  [...rows].sort((a, b) =>
    order === "title"
      ? a.title.localeCompare(b.title)
      : order === "match"
        ? (b.match ?? -1) - (a.match ?? -1)
        : b.addedAt - a.addedAt,
  );

export function StudyList({
  rows: listed,
  removed,
  revision,
}: {
  rows: StudyRow[];
  removed: RemovedStudy[];
  /** When the list was read. */
  revision: number;
}) {
  const router = useRouter();
  const { say } = useNotices();
  const [arriving, setArriving] = useState<{ name: string; done: number; cancel: () => void } | null>(null);
  const [refused, setRefused] = useState<string[]>([]);
  const [sorting, setSorting] = useState<File[] | null>(null);
  const [renaming, setRenaming] = useState<string | null>(null);
  const [order, setOrder] = useState<Order>("newest");
  const rows = listed.map(asRow);
  useRefresh(revision, (news) => (news.kind === "study" ? news.revision : null));

  const bring = async (address: string, file: File, rest = "") => {
    const query = `name=${encodeURIComponent(file.name)}${rest}`;
    const { finished, cancel } = upload(`${address}?${query}`, file, (done) =>
      setArriving((now) => now && { ...now, done }),
    );
    setArriving({ name: file.name, done: 0, cancel });
    const outcome = await finished;
    setArriving(null);
    if (!outcome.ok) setRefused((old) => [...old, `${file.name}: ${sentenceOf(outcome.refusal)}`]);
    return outcome;
  };
  const begin = async ([file, ...more]: File[]) => {
    if (!file) return;
    setRefused([]);
    if (more.length > 0) return setSorting([file, ...more]);
    const outcome = await bring("/api/studies", file);
    if (outcome.ok) router.push(`/studies/${outcome.value.studyId}/overview`);
  };
  /** The reference first: all else belongs to it. */
  const beginWith = async (sorted: SortedFile[]) => {
    setSorting(null);
    const reference = sorted.find(({ role }) => role === "reference")!;
    const begun = await bring("/api/studies", reference.file);
    if (!begun.ok) return;
    const { studyId, itemId } = begun.value;
    let areAllIn = true;
    for (const { file, role } of sorted) {
      if (role === "reference") continue;
      const parent = role === "stem" ? `&parent=${itemId}` : "";
      const outcome = await bring(`/api/studies/${studyId}/items`, file, `&role=${role}${parent}`);
      areAllIn &&= outcome.ok;
    }
    // Where one was refused, what is wrong with it is read here first.
    if (areAllIn) router.push(`/studies/${studyId}/overview`);
    else router.refresh();
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
  /** Sends an edit of a study and offers to take it back. */
  const change = async (studyId: string, label: string, field: "title" | "removed", from: Json, to: Json) => {
    const address = `/api/studies/${studyId}`;
    const edits = [{ label, patch: [{ path: ["study", field], from, to }] }];
    const outcome = await send("POST", `${address}/edits`, { edits }, z.array(z.object({ id: z.number() })));
    router.refresh();
    if (!outcome.ok) return say(sentenceOf(outcome.refusal));
    const id = outcome.value[0]?.id;
    if (id === undefined) return;
    say(label, {
      name: "Undo",
      act: () =>
        void send("POST", `${address}/undo`, { id }).then((undone) => {
          if (!undone.ok) say(sentenceOf(undone.refusal));
          router.refresh();
        }),
    });
  };
  const rename = (row: Row, title: string) =>
    void change(row.id, `Renamed to “${title}”`, "title", row.title, title);
  const remove = (row: Row) => void change(row.id, `“${row.title}” deleted`, "removed", false, true);

  return (
    <>
      <DropArea
        title={rows.length === 0 ? "Start with a reference track" : "New study"}
        forReference
        several
        accept={`${accepted},.zip`}
        action="Choose the reference"
        onFiles={begin}
      >
        <p className="soft m-0">
          Drop the track you want to rebuild, alone or with what you have of it. WAV, AIFF, FLAC, MP3, Ogg,
          Opus or M4A, up to 20 minutes. It stays on this machine. The archive of a study (zip) is opened as a
          study.
        </p>
        {arriving && (
          <div className="w-100 mt-1">
            <div className="d-flex justify-content-between small-text">
              <span>{arriving.done < 1 ? `Uploading ${arriving.name}` : `Checking ${arriving.name}`}</span>
              <button type="button" className="plain-button underlined" onClick={arriving.cancel}>
                Cancel
              </button>
            </div>
            <ProgressLine done={arriving.done} label="Upload" />
          </div>
        )}
        {refused.map((sentence) => (
          <p key={sentence} className="needs-attention m-0" role="alert">
            {sentence}
          </p>
        ))}
        {sorting && (
          <SortFiles
            files={sorting}
            hasReference={false}
            onConfirm={(sorted) => void beginWith(sorted)}
            onCancel={() => setSorting(null)}
          />
        )}
        <p className="small-text soft m-0">
          or{" "}
          <button type="button" className="plain-button underlined" onClick={beginEmpty}>
            start with an empty study
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
                <th className="number">Latest match</th>
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
                      <Link href={`/studies/${row.id}/overview`} className="strong" prefetch={false}>
                        {row.title}
                      </Link>
                    )}
                    <div className="small-text soft">
                      {row.isReadable
                        ? `started ${day(row.addedAt)}`
                        : "Its summary can't be read; open it to see why."}
                    </div>
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
                        onClick={() => remove(row)}
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

      {removed.length > 0 && <RemovedStudies studies={removed} />}
    </>
  );
}
