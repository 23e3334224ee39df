/** The hatching of the version's ink as a pattern of a drawing: `fill="url(#id)"`. */
export function Hatch({ id }: { id: string }) {
  return (
    <defs>
      <pattern id={id} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="5" height="5" fill="var(--version)" />
        <rect width="1.6" height="5" fill="var(--paper)" />
      </pattern>
    </defs>
  );
}
