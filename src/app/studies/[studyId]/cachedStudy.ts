import { cache } from "react";
import { database } from "@/server/database";
import { readStudy } from "@/server/reading";

/** The study of a request, read once for layout, title and page. */
export const cachedStudy = cache(async (studyId: string) => readStudy(await database(), studyId));
