"use client";

import { useEffect, type ElementType } from "react";

/** What Next gives a page that stands in for one that failed. */
export interface StoppedProps {
  error: Error & { digest?: string };
  reset: () => void;
}

/** Shown where a view fails: the rest of the study stays as it is. */
export function ViewStopped({
  error,
  reset,
  as: Frame,
  className,
}: StoppedProps & { as: ElementType; className: string }) {
  useEffect(() => {
    console.error(error);
  }, [error]);
  return (
    <Frame className={className}>
      <h1>This view stopped working</h1>
      <p role="alert">Nothing was lost. Try again; if it happens again, reload the page.</p>
      <button type="button" className="btn btn-quiet" onClick={reset}>
        Try again
      </button>
    </Frame>
  );
}
