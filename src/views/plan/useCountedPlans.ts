"use client";

import { useMemo } from "react";
import { countedPlans, type CountedPlans, type PlanModel } from "@/models/plan";
import { useStudy } from "../study/StudyContext";

const nothing: never[] = [];

/** Plans as they count now, with edits on their way, and what they have in common. */
export function useCountedPlans(model: PlanModel): CountedPlans {
  const { study, itemOf, aligned } = useStudy();
  const { semitones } = study.intended;
  return useMemo(
    () => countedPlans(model, (itemId) => itemOf(itemId)?.corrections, aligned?.spans ?? nothing, semitones),
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- items change with the study
    [model, study, aligned, semitones],
  );
}
