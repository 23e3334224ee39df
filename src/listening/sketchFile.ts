import { soundSketcher, type SoundSketch } from "@/core/formats/soundSketch";

/** Enough for a sketch, and a quarter of the memory. */
const sketchRate = 11025;
/** Larger files are not opened only to guess what they are. */
const mostBytes = 400e6;
/** Samples between pauses in which the page can do something else. */
const slice = 1 << 17;

/** How a file sounds, in short; null where the browser cannot read it. */
export async function sketchFile(file: File, signal: AbortSignal): Promise<SoundSketch | null> {
  if (file.size > mostBytes) return null;
  try {
    const context = new OfflineAudioContext(1, 1, sketchRate);
    const sound = await context.decodeAudioData(await file.arrayBuffer());
    const channels = Array.from({ length: sound.numberOfChannels }, (_, i) => sound.getChannelData(i));
    const sketcher = soundSketcher(sound.length, sound.sampleRate);
    for (let from = 0; from < sound.length; from += slice) {
      if (signal.aborted) return null;
      sketcher.add(channels.map((samples) => samples.subarray(from, from + slice)));
      await new Promise((resolve) => setTimeout(resolve));
    }
    return sketcher.finish();
  } catch {
    // The server reads more than a browser does, and says what is wrong with the rest.
    return null;
  }
}
