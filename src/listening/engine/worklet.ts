/** The mixer in the audio thread. Bundled on its own to `public/listening/mixer.js`. */
import type { Order, Report } from "./messages";
import { processorName } from "./messages";
import { Mixer } from "./mixer";

// The scope of an audio worklet, which the standard library of types does not describe.
declare const sampleRate: number;
declare const currentTime: number;
declare function registerProcessor(name: string, processor: unknown): void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

const reportsPerSecond = 30;

class MixerProcessor extends AudioWorkletProcessor {
  private readonly mixer = new Mixer(sampleRate);
  private sinceReport = 0;
  private seeks = 0;

  constructor() {
    super();
    this.port.onmessage = ({ data }: MessageEvent<Order>) => this.obey(data);
  }

  private obey(order: Order): void {
    const { mixer } = this;
    if (order.kind === "deck") mixer.setDeck(order.side, order.setup, order.keepPieces);
    else if (order.kind === "piece") mixer.addPiece(order.side, order.piece, order.channels);
    else if (order.kind === "drop") mixer.dropPiece(order.side, order.piece);
    else if (order.kind === "clear") mixer.clearPieces(order.side);
    else if (order.kind === "settings") mixer.change(order.settings);
    else if (order.kind === "play") mixer.play();
    else if (order.kind === "pause") mixer.pause();
    else {
      mixer.seek(order.beat);
      this.seeks = order.number;
    }
    if (order.kind !== "piece" && order.kind !== "drop") this.tell();
  }

  private tell(): void {
    this.sinceReport = 0;
    this.port.postMessage({ ...this.mixer.report(), time: currentTime, seeks: this.seeks } satisfies Report);
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [reference, version, click] = outputs;
    const pair = (channels: Float32Array[]) => channels as [Float32Array, Float32Array];
    this.mixer.process(pair(reference!), pair(version!), click![0]!);
    this.sinceReport += click![0]!.length;
    if (this.sinceReport >= sampleRate / reportsPerSecond) this.tell();
    return true;
  }
}

registerProcessor(processorName, MixerProcessor);
