import { loopWords, type LoopAnswer } from "@/models/candidates";

/** Loops among the candidates: what would make each fit, and where. */
export function Loops({
  loops,
  onHear,
  onRemove,
}: {
  loops: readonly (LoopAnswer & { id: string; name: string })[];
  onHear(id: string): void;
  onRemove(id: string): void;
}) {
  return (
    <section aria-label="Loops" className="mt-3">
      <h2>Loops</h2>
      <ul className="findings">
        {loops.map(({ id, name, ...loop }) => (
          <li key={id} className="finding loop-line">
            <span className="title clip" title={name}>
              {name}
            </span>
            <span className="detail">{loopWords(loop).join("; ")}.</span>
            <span className="d-flex gap-2">
              <button type="button" className="plain-button underlined" onClick={() => onHear(id)}>
                Hear it
              </button>
              <button
                type="button"
                className="plain-button soft"
                aria-label={`Remove ${name}`}
                onClick={() => onRemove(id)}
              >
                ×
              </button>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
