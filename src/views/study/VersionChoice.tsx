"use client";

import { Dropdown } from "react-bootstrap";
import { points } from "@/models/format";
import { useStudy } from "./StudyContext";

/** Which version all views look at. */
export function VersionChoice() {
  const { study, version, scores, chooseVersion } = useStudy();
  if (!version) return null;
  return (
    <Dropdown align="end">
      <Dropdown.Toggle
        as="button"
        className="pill"
        bsPrefix="pill"
        aria-label={`Version ${version.number}, choose another`}
      >
        <span className="strong in-version text-nowrap">Version {version.number}</span>
        <span className="clip">{version.note && `“${version.note}”`}</span>
        <span aria-hidden="true">▾</span>
      </Dropdown.Toggle>
      <Dropdown.Menu style={{ minWidth: 320 }}>
        {[...study.versions].reverse().map((own) => (
          <Dropdown.Item
            key={own.id}
            as="button"
            active={own.id === version.id}
            onClick={() => chooseVersion(own.number)}
          >
            <span className="d-flex gap-3">
              <span className="strong">{own.number}</span>
              <span className="clip flex-grow-1" style={{ maxWidth: 300 }}>
                {own.note || own.fileName}
              </span>
              <span className="strong">
                {points(scores.find(({ trackId }) => trackId === own.id)?.match)}
              </span>
            </span>
          </Dropdown.Item>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
