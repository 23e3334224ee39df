"use client";

import {
  DndContext,
  KeyboardSensor,
  PointerSensor,
  closestCenter,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import {
  SortableContext,
  arrayMove,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { useSearchParams } from "next/navigation";
import { Button } from "react-bootstrap";
import { fixed, points, signed } from "@/models/format";
import { HistoryLine } from "@/components/HistoryLine";
import { defaultElementWeight, type ComparedElement } from "@/core/match";
import type { ElementRecord, HeardElements } from "@/core/study";
import { useEdits, useStudy } from "../study/StudyContext";
import { ElementDetail } from "./ElementDetail";
import { HeardThrough } from "./HeardThrough";
import { ElementLanes } from "./ElementLanes";
import { InTurn } from "./InTurn";
import { merged, split } from "@/models/elementEdits";
import type { ElementsModel } from "@/models/elements";

const newElement: Omit<ElementRecord, "id"> = {
  name: "New element",
  lens: null,
  fromHz: 200,
  toHz: 2000,
  state: "not started",
  note: "",
  weight: defaultElementWeight,
  target: null,
  hidden: false,
};

const newElementId = () =>
  Array.from(crypto.getRandomValues(new Uint8Array(8)), (byte) => byte.toString(16).padStart(2, "0")).join(
    "",
  );

const gapOf = (compared: ComparedElement | undefined, aspect: "level" | "tone") =>
  compared?.aspects.find((a) => a.name === aspect)?.measures[0]?.gap ?? null;

export function Elements({ model, heard }: { model: ElementsModel | null; heard: HeardElements | null }) {
  const { study, version, scores, selection, go } = useStudy();
  const { edit } = useEdits();
  const asked = useSearchParams().get("element");
  const chosen =
    study.elements.find((element) => element.id === asked) ??
    study.elements.find(({ hidden }) => !hidden) ??
    null;
  const shown = study.elements.filter(({ hidden }) => !hidden);
  const hidden = study.elements.filter((element) => element.hidden);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const choose = (id: string) => go({ element: id });

  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    edit("Elements reordered", (now) => {
      const ids = now.elementOrder;
      return {
        ...now,
        elementOrder: arrayMove(ids, ids.indexOf(String(active.id)), ids.indexOf(String(over.id))),
      };
    });
  };
  const add = () => {
    const id = newElementId();
    edit("Element added", (now) => ({
      ...now,
      elements: { ...now.elements, [id]: newElement },
      elementOrder: [...now.elementOrder, id],
    }));
    choose(id);
  };
  const remove = ({ id, name }: ElementRecord) =>
    edit(`“${name}” removed`, (now) => ({
      ...now,
      elementOrder: now.elementOrder.filter((own) => own !== id),
    }));
  const merge = ({ id, name }: ElementRecord, other: ElementRecord) =>
    edit(`“${other.name}” merged into “${name}”`, (now) => merged(now, id, other.id));
  const takeApart = ({ id, name }: ElementRecord) => {
    const upper = newElementId();
    edit(`“${name}” split into layers`, (now) => split(now, id, upper));
  };
  const revise = ({ id, name }: ElementRecord, next: Partial<ElementRecord>) =>
    edit(`“${next.name ?? name}” changed`, (now) => {
      const own = now.elements[id];
      return own ? { ...now, elements: { ...now.elements, [id]: { ...own, ...next } } } : now;
    });

  return (
    <div className="elements-view">
      <div>
        <div className="view-heading d-flex justify-content-between align-items-end gap-4">
          <div>
            <h1>Elements{version ? `, version ${version.number}` : ""}</h1>
            <p>
              {model
                ? `Each lifted out of both mixes alike, beside the other elements${selection ? ", in the selection" : ""}.`
                : "What you track part by part. Scores appear with the first analysed version."}
            </p>
          </div>
          <Button variant="quiet" className="text-nowrap" onClick={add}>
            Add an element
          </Button>
        </div>
        <DndContext id="elements" sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
          <SortableContext items={shown.map((e) => e.id)} strategy={verticalListSortingStrategy}>
            <table className="ruled">
              <thead>
                <tr>
                  <th>
                    <span className="visually-hidden">Order</span>
                  </th>
                  <th>Element</th>
                  <th style={{ width: "20%" }}>Heard through</th>
                  <th className="number">Level gap</th>
                  <th className="number">Tone gap</th>
                  <th>Over versions</th>
                  <th>State</th>
                  <th className="number">Match</th>
                </tr>
              </thead>
              <tbody>
                {shown.map((element) => (
                  <Row
                    key={element.id}
                    element={element}
                    compared={model?.elements[element.id]}
                    heard={heard}
                    history={scores.map((s) => s.elements[element.id] ?? null)}
                    selected={element.id === chosen?.id}
                    onChoose={() => choose(element.id)}
                  />
                ))}
              </tbody>
            </table>
          </SortableContext>
        </DndContext>
        {hidden.length > 0 && (
          <p className="small-text soft m-0 mt-2">
            Hidden, and counted all the same:{" "}
            {hidden.map(({ id, name }, i) => (
              <span key={id}>
                {i > 0 && ", "}
                <button type="button" className="plain-button underlined" onClick={() => choose(id)}>
                  {name}
                </button>
              </span>
            ))}
          </p>
        )}
        {model && model.bars > 0 && (
          <>
            <ElementLanes model={model} elements={shown} chosen={chosen?.id ?? null} onChoose={choose} />
            <InTurn pairs={model.interplay} />
          </>
        )}
        {study.elements.length === 0 && (
          <p className="soft mt-3">No elements yet. Add the ones you want to track.</p>
        )}
      </div>
      {chosen && (
        <ElementDetail
          key={chosen.id}
          element={chosen}
          compared={model?.elements[chosen.id] ?? null}
          vocal={model?.besideVocal[chosen.id] ?? null}
          heard={heard}
          onChange={(next) => revise(chosen, next)}
          others={study.elements.filter(({ id }) => id !== chosen.id)}
          onMerge={(other) => merge(chosen, other)}
          onSplit={() => takeApart(chosen)}
          onRemove={() => remove(chosen)}
        />
      )}
    </div>
  );
}

function Row({
  element,
  compared,
  heard,
  history,
  selected,
  onChoose,
}: {
  element: ElementRecord;
  compared: ComparedElement | undefined;
  heard: HeardElements | null;
  history: (number | null)[];
  selected: boolean;
  onChoose(): void;
}) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: element.id });
  const leftOut = element.state === "left out";
  const gap = (aspect: "level" | "tone") => {
    const value = gapOf(compared, aspect);
    return value === null ? "–" : `${aspect === "level" ? signed(value) : fixed(value)} dB`;
  };
  return (
    <tr
      ref={setNodeRef}
      className="element-row"
      aria-selected={selected}
      onClick={onChoose}
      style={{
        transform: CSS.Translate.toString(transform),
        transition,
        ...(leftOut ? { opacity: 0.6 } : {}),
      }}
    >
      <td style={{ width: 22 }}>
        <button
          type="button"
          className="plain-button grip"
          {...attributes}
          {...listeners}
          aria-label={`Move ${element.name}`}
        >
          ⋮⋮
        </button>
      </td>
      <td>
        <button type="button" className="plain-button strong" onClick={onChoose}>
          {element.name}
        </button>
      </td>
      <td>
        <HeardThrough element={element} compared={compared} heard={heard} />
      </td>
      <td className="number">{gap("level")}</td>
      <td className="number">{gap("tone")}</td>
      <td>
        <HistoryLine scores={history} width={90} label={`${element.name} over versions`} />
      </td>
      <td className="small-text">{element.state}</td>
      <td className="number strong" style={{ fontSize: "1.0625rem" }}>
        {leftOut ? "–" : points(compared?.score)}
        {!leftOut && element.target !== null && (
          <span className="soft tiny-text fw-normal"> / {points(element.target)}</span>
        )}
      </td>
    </tr>
  );
}
