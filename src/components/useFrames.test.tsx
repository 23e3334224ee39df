import { act, cleanup, render } from "@testing-library/react";
import { useFrames } from "./useFrames";

afterEach(cleanup);

/** How often something is drawn in some time, where each says that something moved or that nothing did. */
async function drawsIn(milliseconds: number, isMoving: () => boolean): Promise<number> {
  let count = 0;
  function Drawn() {
    useFrames(() => {
      count++;
      return isMoving();
    });
    return null;
  }
  const { unmount } = render(<Drawn />);
  await act(() => new Promise((resolve) => setTimeout(resolve, milliseconds)));
  unmount();
  const atEnd = count;
  await act(() => new Promise((resolve) => setTimeout(resolve, 100)));
  expect(count).toBe(atEnd);
  return count;
}

describe("what is drawn before every frame", () => {
  it("is looked at now and then only while nothing moves", async () => {
    expect(await drawsIn(500, () => false)).toBeLessThan(12);
  });

  it("is drawn at every frame while it moves, and again when it begins to", async () => {
    expect(await drawsIn(500, () => true)).toBeGreaterThan(10);
    let looks = 0;
    const later = await drawsIn(600, () => ++looks > 3);
    expect(later).toBeGreaterThan(5);
  });
});
