"use client";

import { useDeferredValue } from "react";

/** False while a view is first drawn, true a frame later: what takes long to draw does not hold up the rest. */
export const useAfterFirstPaint = (): boolean => useDeferredValue(true, false);
