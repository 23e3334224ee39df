"use client";

import { useRouter } from "next/navigation";
import { Dropdown } from "react-bootstrap";
import { keyName } from "@/core/harmony/keys";
import { studyAddress } from "@/core/study";
import { fixed } from "@/models/format";
import { useStudy } from "./StudyContext";

/** What all views are held against: the reference, or a version in its place. */
export function ReferenceChoice() {
  const { study, version, facts, addressIn } = useStudy();
  const router = useRouter();
  const { reference } = study;
  if (!reference) return null;
  const known = facts[reference.id];
  const choose = (standIn: number | null) => {
    // The version that is looked at cannot be held against itself.
    const isItself = standIn !== null && version?.number === standIn;
    router.push(addressIn(studyAddress({ id: study.id, standIn }), isItself ? { version: null } : {}));
  };
  const others = study.standIn === null ? study.versions : [...study.versions, reference];
  const name = study.standIn === null ? "Reference" : `Version ${study.standIn}`;
  return (
    <Dropdown align="end">
      <Dropdown.Toggle
        as="button"
        className="pill reference-pill"
        bsPrefix="pill"
        title={`${reference.fileName}: choose what every view is held against`}
      >
        <span className="strong in-reference text-nowrap">{name}</span>
        <span className="clip">
          {known?.bpm
            ? [`${fixed(known.bpm, 2)} BPM`, known.key && keyName(known.key)].filter(Boolean).join(", ")
            : reference.fileName}
        </span>
        <span aria-hidden="true">▾</span>
      </Dropdown.Toggle>
      <Dropdown.Menu style={{ minWidth: 320 }}>
        <Dropdown.Header>Hold every view against</Dropdown.Header>
        <Dropdown.Item as="button" active={study.standIn === null} onClick={() => choose(null)}>
          the reference
        </Dropdown.Item>
        {others
          .toSorted((a, b) => b.number - a.number)
          .map((own) => (
            <Dropdown.Item
              key={own.id}
              as="button"
              active={study.standIn === own.number}
              disabled={study.standIn === null && study.versions.length < 2}
              onClick={() => choose(own.number)}
            >
              <span className="d-flex gap-3">
                <span className="text-nowrap">version {own.number}</span>
                <span className="clip soft" style={{ maxWidth: 260 }}>
                  {own.note || own.fileName}
                </span>
              </span>
            </Dropdown.Item>
          ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
