import { ProgressBar } from "react-bootstrap";

/** A thin line of progress with a name for screen readers. */
export function ProgressLine({ done, label }: { done: number; label: string }) {
  return (
    <div className="progress">
      {/* As a child the bar itself gets the name, not the box around it. */}
      <ProgressBar isChild now={Math.round(100 * done)} aria-label={label} />
    </div>
  );
}
