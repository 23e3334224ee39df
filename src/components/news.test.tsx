import { analysisOf, listenToNews, type News } from "./news";

/** The stream of the server, as a test drives it. */
class Stream {
  static readonly opened: Stream[] = [];
  onmessage: ((event: { data: string }) => void) | null = null;
  isClosed = false;
  constructor(readonly address: string) {
    Stream.opened.push(this);
  }
  close() {
    this.isClosed = true;
  }
  tell(news: unknown) {
    this.onmessage?.({ data: JSON.stringify(news) });
  }
}

beforeEach(() => {
  Stream.opened.length = 0;
  Object.assign(globalThis, { EventSource: Stream });
});

const running = (done: number): News => ({
  kind: "analysis",
  fileHash: "f1",
  state: "running",
  progress: { message: "Tempo", done },
});

describe("news", () => {
  it("reaches all listeners through one stream, which closes with the last of them", () => {
    const heard: News[][] = [[], []];
    const leave = heard.map((own) => listenToNews((news) => own.push(news)));
    expect(Stream.opened.map(({ address }) => address)).toEqual(["/api/events"]);
    const [stream] = Stream.opened;
    stream!.tell({ kind: "study", studyId: "s1", revision: 4 });
    expect(heard[0]).toEqual([{ kind: "study", studyId: "s1", revision: 4 }]);
    expect(heard[1]).toEqual(heard[0]);
    leave[0]!();
    expect(stream!.isClosed).toBe(false);
    stream!.tell(running(0.5));
    expect([heard[0]!.length, heard[1]!.length]).toEqual([1, 2]);
    leave[1]!();
    expect(stream!.isClosed).toBe(true);
  });

  it("is opened anew for those who come later, and remembers how analyses went", () => {
    const leave = listenToNews(() => undefined);
    Stream.opened[0]!.tell(running(0.25));
    leave();
    expect(analysisOf("f1")).toEqual(running(0.25));
    expect(analysisOf("unknown")).toBeNull();
    listenToNews(() => undefined)();
    expect(Stream.opened).toHaveLength(2);
  });

  it("leaves out what is no news", () => {
    const heard: News[] = [];
    const leave = listenToNews((news) => heard.push(news));
    for (const wrong of [null, {}, { kind: "study", studyId: 3 }, { ...running(1), state: "odd" }])
      Stream.opened[0]!.tell(wrong);
    leave();
    expect(heard).toEqual([]);
  });
});
