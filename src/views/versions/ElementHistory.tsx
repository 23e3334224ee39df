"use client";

import Link from "next/link";
import { points } from "@/models/format";
import { bestVersion } from "@/models/progress";
import { useStudy } from "../study/StudyContext";

/** How closely each element matches in each version; the best of each row stands out. */
export function ElementHistory() {
  const { study, scores, version, chooseVersion, addressOf } = useStudy();
  const known = scores.filter(({ match }) => match !== null);
  const rows = study.elements
    .filter(({ state }) => state !== "left out")
    .map((element) => ({
      element,
      best: bestVersion(known, (own) => own.elements[element.id]),
      values: known.map((own) => own.elements[element.id] ?? null),
    }))
    .filter(({ best }) => best !== null);
  if (known.length < 2 || rows.length === 0) return null;
  return (
    <section aria-labelledby="element-history">
      <h2 id="element-history">Elements over versions</h2>
      <div className="version-scroll" role="region" aria-label="Elements over versions" tabIndex={0}>
        <table className="ruled element-history">
          <thead>
            <tr>
              <th scope="col">
                <span className="visually-hidden">Element</span>
              </th>
              {known.map(({ trackId, number }) => (
                <th key={trackId} scope="col" className="number">
                  <button
                    type="button"
                    className={`plain-button${trackId === version?.id ? " strong in-version" : ""}`}
                    aria-label={`Show version ${number}`}
                    onClick={() => chooseVersion(number)}
                  >
                    v{number}
                  </button>
                </th>
              ))}
              <th scope="col">Best so far</th>
            </tr>
          </thead>
          <tbody>
            {rows.map(({ element, best, values }) => (
              <tr key={element.id}>
                <th scope="row">
                  <Link href={addressOf("elements", { element: element.id })} prefetch={false}>
                    {element.name}
                  </Link>
                </th>
                {values.map((value, i) => {
                  const own = known[i]!;
                  return (
                    <td
                      key={own.trackId}
                      className={`number${own.trackId === best!.trackId ? " strong" : " soft"}${
                        own.trackId === version?.id ? " is-chosen" : ""
                      }`}
                    >
                      {points(value)}
                    </td>
                  );
                })}
                <td className="small-text soft">version {best!.number}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
