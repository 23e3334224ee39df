import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { Notices, useNotices } from "./Notices";

afterEach(cleanup);

/** Says one thing more with each press. */
function Speaker({ onAct }: { onAct(): void }) {
  const { say } = useNotices();
  const [count, setCount] = useState(1);
  return (
    <button
      type="button"
      onClick={() => {
        setCount(count + 1);
        say(`said ${count}`, { name: "Take back", act: onAct });
      }}
    >
      say
    </button>
  );
}

describe("notices", () => {
  const open = () => {
    const acts = { count: 0 };
    render(
      <Notices>
        <Speaker onAct={() => acts.count++} />
      </Notices>,
    );
    return { acts, say: () => fireEvent.click(screen.getByRole("button", { name: "say" })) };
  };

  it("stand in a region that is read out, the newest three of them", () => {
    const { say } = open();
    for (let i = 0; i < 5; i++) say();
    const region = screen.getByRole("status");
    expect([...region.querySelectorAll("span")].map(({ textContent }) => textContent)).toEqual([
      "said 3",
      "said 4",
      "said 5",
    ]);
  });

  it("act once, and are gone then", () => {
    const { acts, say } = open();
    say();
    fireEvent.click(screen.getByRole("button", { name: "Take back" }));
    expect(acts.count).toBe(1);
    expect(screen.queryByText("said 1")).toBeNull();
  });

  it("are closed without acting", () => {
    const { acts, say } = open();
    say();
    fireEvent.click(screen.getByRole("button", { name: "Close message" }));
    expect([acts.count, screen.queryByText("said 1")]).toEqual([0, null]);
  });
});
