"use client";

import { usePathname, useRouter, useSearchParams } from "next/navigation";
import { useCallback } from "react";
import { formatBars, parseBars } from "@/core/grid/barRange";
import type { BarRange } from "@/core/grid/grid";
import { shortestSpan, type Span } from "@/core/study";

export interface Address {
  /** The view that is open. */
  view: string;
  /** Number of the version in the address; NaN where there is none. */
  number: number;
  bars: BarRange | null;
  span: Span | null;
  /** Address of a view that keeps version and selection. */
  addressOf(view: string, change?: Record<string, string | null>): string;
  /** Address of the view that is open, with another study's address in place of this one's. */
  addressIn(studyAddress: string, change?: Record<string, string | null>): string;
  /** Changes the address of the view that is open. */
  go(change: Record<string, string | null>): void;
}

function spanIn(parameters: URLSearchParams): Span | null {
  const from = Number(parameters.get("from") ?? NaN);
  const to = Number(parameters.get("to") ?? NaN);
  return Number.isFinite(from) && Number.isFinite(to) && to - from >= shortestSpan ? { from, to } : null;
}

export const selectionInAddress = (bars: BarRange | null, span: Span | null = null) => ({
  bars: bars && formatBars(bars),
  from: span ? span.from.toFixed(2) : null,
  to: span ? span.to.toFixed(2) : null,
});

/**
 * What the address of a study says, and how it is changed.
 *
 * @param own as `studyAddress` writes it.
 */
export function useAddress(own: string): Address {
  const router = useRouter();
  const view = usePathname().split("/")[3] ?? "overview";
  const parameters = useSearchParams();
  const address = useCallback(
    (study: string, wanted: string, change: Record<string, string | null> = {}) => {
      const next = new URLSearchParams(parameters);
      for (const [name, value] of Object.entries(change)) {
        if (value === null) next.delete(name);
        else next.set(name, value);
      }
      const query = next.toString();
      return `/studies/${study}/${wanted}${query ? `?${query}` : ""}`;
    },
    [parameters],
  );
  const addressOf = useCallback<Address["addressOf"]>(
    (wanted, change) => address(own, wanted, change),
    [address, own],
  );
  const go = useCallback(
    (change: Record<string, string | null>) => router.replace(addressOf(view, change), { scroll: false }),
    [router, addressOf, view],
  );
  return {
    view,
    number: Number(parameters.get("version") ?? NaN),
    bars: parseBars(parameters.get("bars")),
    span: spanIn(parameters),
    addressOf,
    addressIn: (study, change) => address(study, view, change),
    go,
  };
}
