import { renderHook } from "@testing-library/react";
import { useSteady } from "./useSteady";

it("keeps a value as long as it does for what is wanted, and then takes that", () => {
  const within = (kept: number, wanted: number) => wanted <= kept && 2 * wanted >= kept;
  const { result, rerender } = renderHook(({ wanted }) => useSteady(wanted, within), {
    initialProps: { wanted: 12 },
  });
  const after = (wanted: number) => {
    rerender({ wanted });
    return result.current;
  };
  expect([12, 9, 6, 11].map(after)).toEqual([12, 12, 12, 12]);
  // Too much, then far too little.
  expect([15, 9, 6, 9].map(after)).toEqual([15, 15, 6, 9]);
});
