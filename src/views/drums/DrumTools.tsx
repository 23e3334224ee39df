"use client";

import type { ReactNode } from "react";
import { Button } from "react-bootstrap";
import { fixed } from "@/models/format";
import type { ComparedDrums, MainSwing } from "@/core/drums";
import type { BarsShown } from "./useBarsShown";

/** How many bars are shown, which, and whether as played or as they usually are. */
export function DrumTools({
  view,
  section,
  isTypical,
  onTypical,
  children,
}: {
  view: BarsShown;
  section: string;
  isTypical: boolean;
  onTypical(is: boolean): void;
  children: ReactNode;
}) {
  const page = (label: string, sign: string, direction: 1 | -1) => (
    <Button
      size="sm"
      variant="quiet"
      aria-label={label}
      disabled={isTypical}
      onClick={() => view.page(direction)}
    >
      {sign}
    </Button>
  );
  return (
    <div className="d-flex align-items-baseline gap-3 flex-wrap">
      <span className="choices" role="group" aria-label="Bars at a time">
        {[1, 2, 4, 8].map((count) => (
          <button
            key={count}
            type="button"
            className="plain-button"
            aria-pressed={!isTypical && view.count === count}
            onClick={() => {
              onTypical(false);
              view.setCount(count);
            }}
          >
            {count === 1 ? "1 bar" : `${count} bars`}
          </button>
        ))}
        <button
          type="button"
          className="plain-button"
          aria-pressed={isTypical}
          onClick={() => onTypical(!isTypical)}
        >
          typical for {section}
        </button>
      </span>
      <span>
        {page("Previous bars", "‹", -1)}
        {page("Next bars", "›", 1)}
      </span>
      {children}
    </div>
  );
}

/** Swing of both sides, or of the reference alone. */
export function SwingHead({ own, compared }: { own: MainSwing; compared: ComparedDrums["swing"] }) {
  const pairs = (compared?.of ?? own.of) === 8 ? "eighths" : "sixteenths";
  return (
    <div className="ms-auto text-end">
      <span className="small-text soft d-block">swing, {pairs}</span>
      <span className="strong">
        <span className="in-reference">{fixed(compared?.reference ?? own.percent)} %</span>
        {compared && (
          <>
            {" · "}
            <span className="in-version">{fixed(compared.version)} %</span>
          </>
        )}
      </span>
    </div>
  );
}
