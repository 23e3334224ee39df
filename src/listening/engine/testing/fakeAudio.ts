/** The browser's audio for tests: what is connected and set is remembered, nothing sounds. */
import type { Order, Report } from "../messages";

export interface Made {
  kind: string;
  to: Made[];
  gain: { value: number };
  frequency: { value: number };
  Q: { value: number };
  delayTime: { value: number };
  type: string;
  startedAt?: number;
}

/** Nodes remember what they are connected to and what was set; nothing sounds. */
export class FakeContext {
  static made: FakeContext[] = [];
  currentTime = 0;
  sampleRate: number;
  destination = this.node("destination");
  nodes: Made[] = [];
  closed = false;
  modules: string[] = [];
  audioWorklet = {
    addModule: (address: string) => {
      this.modules.push(address);
      return Promise.resolve();
    },
  };
  constructor(options: { sampleRate?: number } = {}) {
    this.sampleRate = options.sampleRate ?? 48000;
    FakeContext.made.push(this);
  }
  node(kind: string): Made & { connect(next: Made): Made; disconnect(): void } {
    const parameter = () => ({
      value: 1,
      setTargetAtTime(value: number) {
        this.value = value;
      },
      setValueAtTime(value: number) {
        this.value = value;
      },
      linearRampToValueAtTime(value: number) {
        this.value = value;
      },
    });
    const made = {
      kind,
      to: [] as Made[],
      gain: parameter(),
      frequency: parameter(),
      Q: parameter(),
      delayTime: parameter(),
      type: "",
      connect(next: Made) {
        made.to.push(next);
        return next as typeof made;
      },
      disconnect() {
        made.to = [];
      },
      start(time: number) {
        Object.assign(made, { startedAt: time });
      },
    };
    this.nodes?.push(made);
    return made;
  }
  createGain = () => this.node("gain");
  createDelay = () => this.node("delay");
  createBiquadFilter = () => this.node("filter");
  createChannelMerger = () => this.node("merger");
  createChannelSplitter = () => this.node("splitter");
  createBufferSource = () => this.node("source");
  createBuffer = (_channels: number, length: number) => ({ getChannelData: () => new Float32Array(length) });
  isAsleep = false;
  resume = () => {
    this.isAsleep = false;
    return Promise.resolve();
  };
  suspend = () => {
    this.isAsleep = true;
    return Promise.resolve();
  };
  close() {
    this.closed = true;
    return Promise.resolve();
  }
}

/** The mixer's node: hears orders, and reports what a test says. */
export class FakeMixer {
  static last: FakeMixer;
  orders: Order[] = [];
  to: Made[] = [];
  port = {
    onmessage: (_event: { data: Report }) => {},
    postMessage: (order: Order) => this.orders.push(order),
  };
  constructor() {
    FakeMixer.last = this;
  }
  connect(next: Made) {
    this.to.push(next);
    return next;
  }
  disconnect() {}
  report(report: Partial<Report>) {
    this.port.onmessage({
      data: {
        playing: true,
        waiting: false,
        beat: 0,
        seconds: 0,
        activeSide: "reference",
        time: 0,
        seeks: 0,
        ...report,
      },
    });
  }
}
