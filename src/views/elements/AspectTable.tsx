import { measureRules, type BesideVocal, type ComparedElement } from "@/core/match";
import type { ElementRecord } from "@/core/study";
import { elementAspectTitles } from "@/models/aspectTitles";
import { gapWords, sideWords, vocalWords } from "@/models/elements";
import { points, signed } from "@/models/format";

/** The aspects of an element, each with its gap and score, down to its measures. */
export function AspectTable({
  element,
  compared,
  vocal,
}: {
  element: ElementRecord;
  compared: ComparedElement;
  /** Its level beside the vocal; null where there is none. */
  vocal: BesideVocal | null;
}) {
  const scores = compared.aspects.flatMap(({ score }) => (score === null ? [] : [score]));
  const weakest = Math.min(...scores);
  return (
    <table className="ruled small-text" aria-label={`Aspects of ${element.name}`}>
      <thead>
        <tr>
          <th>Aspect</th>
          <th className="number">Gap</th>
          <th className="number">Score</th>
        </tr>
      </thead>
      <tbody>
        {compared.aspects.map((aspect) => {
          const known = aspect.measures.filter(({ gap }) => gap !== null);
          const remark = aspect.measures.find((measure) => measure.remark)?.remark;
          return (
            <tr key={aspect.name}>
              <td>
                <div className="strong">{elementAspectTitles[aspect.name]}</div>
                <div className="tiny-text soft">
                  {known.length > 0
                    ? known
                        .map((measure) => sideWords(measure))
                        .filter(Boolean)
                        .join("; ")
                    : remark}
                </div>
              </td>
              <td
                className="number text-nowrap"
                title={known.map(({ name }) => measureRules[name].reason).join(" ")}
              >
                {known.map((measure) => (
                  <div key={measure.name}>{gapWords(measure)}</div>
                ))}
              </td>
              <td
                className={`number strong ${aspect.score !== null && aspect.score === weakest && weakest < 80 ? "needs-attention" : ""}`}
              >
                {points(aspect.score)}
              </td>
            </tr>
          );
        })}
        {vocal && (
          <tr>
            <td>
              <div className="strong">Beside {vocal.vocal}</div>
              <div className="tiny-text soft">level: {vocalWords(vocal)}; counted in both levels</div>
            </td>
            <td className="number text-nowrap">{signed(vocal.gap)} dB</td>
            <td />
          </tr>
        )}
      </tbody>
    </table>
  );
}
