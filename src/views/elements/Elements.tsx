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
import { useRouter, useSearchParams } from "next/navigation";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { fixed, points, signed } from "@/components/format";
import { HistoryLine } from "@/components/HistoryLine";
import { useNotices } from "@/components/Notices";
import { defaultElementWeight, type ComparedElement } from "@/core/match";
import type { ElementRecord } from "@/core/study";
import { useStudy } from "../study/StudyContext";
import { ElementDetail } from "./ElementDetail";
import { FocusRange } from "./FocusRange";
import { SpectrumCharts } from "../overview/SpectrumCharts";
import type { ElementsModel } from "./model";

const gapOf = (compared: ComparedElement | undefined, aspect: "level" | "tone") =>
  compared?.aspects.find((a) => a.name === aspect)?.measures[0]?.gap ?? null;

export function Elements({ model }: { model: ElementsModel | null }) {
  const { study, version, standings, selection, addressOf, change } = useStudy();
  const { say } = useNotices();
  const router = useRouter();
  const asked = useSearchParams().get("element");
  const chosen = study.elements.find((element) => element.id === asked) ?? study.elements[0] ?? null;
  // The order shown at once while the server still writes it.
  const [order, setOrder] = useState<string[] | null>(null);
  const shown = order ? order.flatMap((id) => study.elements.find((e) => e.id === id) ?? []) : study.elements;
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const choose = (id: string) => router.replace(addressOf("elements", { element: id }), { scroll: false });

  const reorder = async (next: string[]) => {
    setOrder(next);
    await change("PUT", `/api/studies/${study.id}/elements`, { order: next });
  };
  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const ids = shown.map((e) => e.id);
    const next = arrayMove(ids, ids.indexOf(String(active.id)), ids.indexOf(String(over.id)));
    void reorder(next).then(() => say("The order was changed.", () => reorder(ids)));
  };
  const add = async () => {
    setOrder(null);
    await change("POST", `/api/studies/${study.id}/elements`, {
      name: "New element",
      fromHz: 200,
      toHz: 2000,
      weight: defaultElementWeight,
    });
  };
  const remove = async (element: ElementRecord) => {
    setOrder(null);
    if (!(await change("DELETE", `/api/elements/${element.id}`))) return;
    const { id: _gone, ...fields } = element;
    say(
      `“${element.name}” was removed.`,
      () => void change("POST", `/api/studies/${study.id}/elements`, fields),
    );
  };
  const revise = async (element: ElementRecord, next: Partial<ElementRecord>) => {
    const before = Object.fromEntries(
      Object.keys(next).map((key) => [key, element[key as keyof ElementRecord]]),
    );
    const address = `/api/elements/${element.id}`;
    if (await change("PATCH", address, next)) {
      say(`“${next.name ?? element.name}” was changed.`, () => void change("PATCH", address, before));
    }
  };

  return (
    <div className="elements-view">
      <div>
        <div className="view-heading d-flex justify-content-between align-items-end gap-4">
          <div>
            <h1>Elements{version ? `, version ${version.number}` : ""}</h1>
            <p>
              {model
                ? `Each heard through its own frequency range, against the loudness of the whole mix${selection ? ", in the selection" : ""}.`
                : "What you keep count of part by part. Scores come with the first analysed version."}
            </p>
          </div>
          <Button variant="quiet" className="text-nowrap" onClick={() => void add()}>
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
                  <th style={{ width: "20%" }}>Focus, 20 Hz – 20 kHz</th>
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
                    history={standings.map((s) => s.elements[element.id] ?? null)}
                    selected={element.id === chosen?.id}
                    onChoose={() => choose(element.id)}
                  />
                ))}
              </tbody>
            </table>
          </SortableContext>
        </DndContext>
        {model && chosen && version && (
          <SpectrumCharts
            curves={model.curves}
            marked={chosen}
            versionName={`version ${version.number}`}
            gain={model.gainToReference}
          />
        )}
        {study.elements.length === 0 && (
          <p className="soft mt-3">No elements. Add those you want to keep count of.</p>
        )}
      </div>
      {chosen && (
        <ElementDetail
          key={chosen.id}
          element={chosen}
          compared={model?.elements[chosen.id] ?? null}
          onChange={(next) => revise(chosen, next)}
          onRemove={() => remove(chosen)}
        />
      )}
    </div>
  );
}

function Row({
  element,
  compared,
  history,
  selected,
  onChoose,
}: {
  element: ElementRecord;
  compared: ComparedElement | undefined;
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
        <FocusRange fromHz={element.fromHz} toHz={element.toHz} />
      </td>
      <td className="number">{gap("level")}</td>
      <td className="number">{gap("tone")}</td>
      <td>
        <HistoryLine scores={history} width={90} label={`${element.name} over versions`} />
      </td>
      <td className="small-text">{element.state}</td>
      <td className="number strong" style={{ fontSize: "1.0625rem" }}>
        {leftOut ? "–" : points(compared?.score)}
      </td>
    </tr>
  );
}
