import { Fragment } from "react";

/** Files that can be saved, in a row. */
export function FileLinks({
  formats,
  addressOf,
}: {
  formats: readonly { format: string; says: string }[];
  addressOf(format: string): string;
}) {
  return (
    <p className="m-0">
      {formats.map(({ format, says }, i) => (
        <Fragment key={format}>
          {i > 0 && " · "}
          <a href={addressOf(format)} download>
            {says}
          </a>
        </Fragment>
      ))}
    </p>
  );
}
