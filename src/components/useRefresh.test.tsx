import { act, cleanup, render, screen } from "@testing-library/react";
import { addressBar } from "@/views/testing/navigation";
import { prepareWindow, tell } from "@/views/testing/studio";
import { floatsOf, useStoredCurve } from "./useStoredCurve";
import { useRefresh } from "./useRefresh";

beforeEach(() => prepareWindow());
afterEach(cleanup);
const settle = () => act(() => new Promise((resolve) => setTimeout(resolve, 5)));

describe("keeping a page up to date", () => {
  function Page({ revision }: { revision: number }) {
    useRefresh(revision, (news) => (news.kind === "study" && news.studyId === "mine" ? news.revision : null));
    return null;
  }
  const say = (studyId: string, revision: number) => act(() => tell({ kind: "study", studyId, revision }));

  it("asks for it again when it lags behind, once for each revision that it then has", async () => {
    addressBar.open("/");
    const { rerender } = render(<Page revision={5} />);
    say("mine", 6);
    await settle();
    rerender(<Page revision={6} />);
    await settle();
    const asked = addressBar.refreshes;
    expect(asked).toBeGreaterThan(0);
    say("mine", 6);
    say("mine", 3);
    say("other", 99);
    await settle();
    expect(addressBar.refreshes).toBe(asked);
  });

  it("gives up after some tries on a page that cannot catch up, until there is something newer", async () => {
    addressBar.open("/");
    const { rerender } = render(<Page revision={5} />);
    say("mine", 9);
    for (let i = 0; i < 20; i++) {
      rerender(<Page revision={5 + i / 1000} />);
      await settle();
    }
    expect(addressBar.refreshes).toBe(5);
    say("mine", 10);
    await settle();
    expect(addressBar.refreshes).toBeGreaterThan(5);
  });

  it("hears nothing more once it is left", async () => {
    addressBar.open("/");
    render(<Page revision={5} />);
    cleanup();
    say("mine", 9);
    await settle();
    expect(addressBar.refreshes).toBe(0);
  });
});

describe("a stored curve", () => {
  function Curve({ hash }: { hash: string | null }) {
    const curve = useStoredCurve(hash, "onsetStrength");
    return <p>{curve ? `${curve.rate} Hz: ${[...floatsOf(curve)].join(" ")}` : "not there"}</p>;
  }
  const asked: string[] = [];
  const answer = (values: number[], ok = true) => {
    globalThis.fetch = ((path: string) => {
      asked.push(path);
      return Promise.resolve({
        ok,
        headers: { get: () => "86.13" },
        arrayBuffer: () => Promise.resolve(new Float32Array(values).buffer),
      });
    }) as unknown as typeof fetch;
  };

  it("is fetched once, under an address that holds the version of the analysis", async () => {
    answer([0.5, 0.25]);
    render(<Curve hash="abc" />);
    screen.getByText("not there");
    await settle();
    screen.getByText("86.13 Hz: 0.5 0.25");
    cleanup();
    render(<Curve hash="abc" />);
    screen.getByText("86.13 Hz: 0.5 0.25");
    expect(asked).toHaveLength(1);
    expect(asked[0]).toMatch(/^\/api\/curves\/abc\/\d+\/onsetStrength$/);
  });

  it("stays empty where it is refused, and is asked for again when it is shown anew", async () => {
    answer([], false);
    render(<Curve hash="later" />);
    await settle();
    screen.getByText("not there");
    cleanup();
    answer([1]);
    render(<Curve hash="later" />);
    await settle();
    screen.getByText("86.13 Hz: 1");
  });

  it("of no file is nothing", () => {
    const before = asked.length;
    render(<Curve hash={null} />);
    screen.getByText("not there");
    expect(asked).toHaveLength(before);
  });
});
