import { Fragment } from "react";

/** Files that can be saved, in a row. */
export function FileLinks({
  formats,
  addressOf,
}: {
  formats: readonly { format: string; label: string }[];
  addressOf(format: string): string;
}) {
  return (
    <p className="m-0">
      {formats.map(({ format, label }, i) => (
        <Fragment key={format}>
          {i > 0 && " · "}
          <a href={addressOf(format)} download>
            {label}
          </a>
        </Fragment>
      ))}
    </p>
  );
}
