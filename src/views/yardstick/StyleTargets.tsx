import { Choices } from "@/components/Choices";
import { styleAspects, type StyleAspect } from "@/core/match";
import { aspectTitles } from "@/models/aspectTitles";
import { points } from "@/models/format";
import { useEdits, useStudy } from "../study/StudyContext";

/** Whether a version is held against the reference or against the style, aspect by aspect. */
export function StyleTargets() {
  const { study, version, scores } = useStudy();
  const { edit } = useEdits();
  const own = scores.find(({ trackId }) => trackId === version?.id);
  const choose = (aspect: StyleAspect, isStyle: boolean) =>
    edit(`${aspectTitles[aspect]} held against the ${isStyle ? "yardstick" : "reference"}`, (now) => ({
      ...now,
      study: {
        ...now.study,
        styleAspects: styleAspects.filter((name) =>
          name === aspect ? isStyle : now.study.styleAspects.includes(name),
        ),
      },
    }));
  return (
    <section aria-labelledby="style-targets">
      <h2 id="style-targets">What versions are aimed at</h2>
      <p className="soft">
        Where the yardstick is chosen, anything within its range scores 100 and the reference does not count.
      </p>
      <table className="ruled yardstick-figures style-targets">
        <thead>
          <tr>
            <th scope="col">Aspect</th>
            <th scope="col">Held against</th>
            {own && (
              <th scope="col" className="number text-nowrap">
                Score of version {own.number}
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {styleAspects.map((aspect) => (
            <tr key={aspect}>
              <th scope="row" className="strong">
                {aspectTitles[aspect]}
              </th>
              <td>
                <Choices
                  label={`${aspectTitles[aspect]} is held against`}
                  choices={[
                    { value: "reference", title: "Reference" },
                    { value: "yardstick", title: "Yardstick" },
                  ]}
                  chosen={study.styleAspects.includes(aspect) ? "yardstick" : "reference"}
                  onChoose={(value) => choose(aspect, value === "yardstick")}
                />
              </td>
              {own && <td className="number score">{points(own.aspects[aspect])}</td>}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
