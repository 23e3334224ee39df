/** Numbers as people read them: a true minus sign, a fixed number of places, the unit behind. */

const minus = (text: string) => text.replace("-", "−");

/** A value with a fixed number of decimals; a dash where there is none. */
export const fixed = (value: number | null | undefined, places = 1): string =>
  value === null || value === undefined || !Number.isFinite(value)
    ? "–"
    : minus((Math.abs(value) < 0.5 * 10 ** -places ? 0 : value).toFixed(places));

/** A difference: always with its sign, 0 without. */
export const signed = (value: number | null | undefined, places = 1): string => {
  const text = fixed(value, places);
  return value && Number.isFinite(value) && value > 0 && Number(text) !== 0 ? `+${text}` : text;
};

/** A frequency: `63 Hz`, `2.5 kHz`. */
export const frequency = (hertz: number): string =>
  hertz < 1000
    ? `${hertz < 100 ? Math.round(hertz) : Math.round(hertz / 5) * 5} Hz`
    : `${(hertz / 1000).toFixed(hertz < 9950 ? 1 : 0).replace(/\.0$/, "")} kHz`;

/** Preferred numbers of ISO 3, series R20: the nominal edges and centres of third-octave bands. */
const preferred = [
  1, 1.12, 1.25, 1.4, 1.6, 1.8, 2, 2.24, 2.5, 2.8, 3.15, 3.55, 4, 4.5, 5, 5.6, 6.3, 7.1, 8, 9, 10,
];

/** The nominal frequency of a band's edge or centre, as people name it: `800 Hz` for 794.3. */
export function nominalFrequency(hertz: number): string {
  const decade = 10 ** Math.floor(Math.log10(hertz));
  const nearest = preferred.reduce((a, b) =>
    Math.abs(b - hertz / decade) < Math.abs(a - hertz / decade) ? b : a,
  );
  const value = nearest * decade;
  return value < 1000 ? `${Math.round(value)} Hz` : `${Number((value / 1000).toFixed(2))} kHz`;
}

/** A frequency on an axis: `63`, `2k`. */
export const axisFrequency = (hertz: number): string => (hertz < 1000 ? String(hertz) : `${hertz / 1000}k`);

/** A place in time: `1:04.2`, or `1:04` without tenths. */
export function clock(seconds: number, tenths = false): string {
  const scale = tenths ? 10 : 1;
  const whole = Math.floor(seconds * scale + 1e-6) / scale;
  const minutes = Math.floor(whole / 60);
  const rest = (whole - minutes * 60).toFixed(tenths ? 1 : 0);
  return `${minutes}:${rest.padStart(tenths ? 4 : 2, "0")}`;
}

/** A score 0–100 without decimals; a score that is not complete is never shown as 100. */
export const points = (score: number | null | undefined): string =>
  score === null || score === undefined
    ? "–"
    : String(score > 99.5 && score < 99.95 ? 99 : Math.round(score));

/** A file size. */
export const megabytes = (bytes: number): string =>
  bytes < 1048576 ? `${Math.max(1, Math.round(bytes / 1024))} kB` : `${(bytes / 1048576).toFixed(1)} MB`;

/** A day and time, short. */
export const day = (milliseconds: number): string =>
  new Date(milliseconds).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
