/** The page of results, section by section. */

const intro =
  "# Benchmarks\n\nWritten by `npm run bench`, part by part; each section says when and where it was measured. Not edited by hand.\n";

/** Puts sections into a page in place of those with the same heading, new ones at its end. */
export function putSections(page: string, sections: Readonly<Record<string, string>>): string {
  const [, ...old] = page.split(/^## /m);
  const kept = new Map(
    old.map((section) => {
      const [heading = "", ...rest] = section.split("\n");
      return [heading.trim(), rest.join("\n").trim()] as const;
    }),
  );
  for (const [heading, text] of Object.entries(sections)) kept.set(heading, text.trim());
  return [intro, ...[...kept].map(([heading, text]) => `## ${heading}\n\n${text}\n`)].join("\n");
}
