/** Stands in for `next/navigation`: an address that tests set and read. */
import { useSyncExternalStore } from "react";

let address = new URL("http://localhost/");
let refreshes = 0;
let onRefresh: () => void = () => {};
const listeners = new Set<() => void>();

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

function go(to: string): void {
  address = new URL(to, address);
  listeners.forEach((listener) => listener());
}

const router = {
  push: go,
  replace: go,
  prefetch: () => {},
  refresh: () => {
    refreshes++;
    onRefresh();
  },
};

/** What tests see of the address, and what they do with it. */
export const addressBar = {
  open(to: string, refresh: () => void = () => {}): void {
    refreshes = 0;
    onRefresh = refresh;
    go(to);
  },
  get now(): string {
    return address.pathname + address.search;
  },
  /** How often the page was asked for again. */
  get refreshes(): number {
    return refreshes;
  },
};

const useUrl = () =>
  useSyncExternalStore(
    subscribe,
    () => address,
    () => address,
  );

export const useRouter = () => router;
export const usePathname = () => useUrl().pathname;
export const useSearchParams = () => useUrl().searchParams;
