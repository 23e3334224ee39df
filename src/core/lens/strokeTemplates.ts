/**
 * What strokes leave in a spectrogram: a template of some frames for every drum, which sounds only from
 * its strokes on, beside a background that sounds on. Templates are fitted by the multiplicative updates
 * of non-negative deconvolution for the Kullback–Leibler divergence (Smaragdis 2004, "Non-negative
 * matrix factor deconvolution"), the places of the strokes known beforehand as in score-informed
 * factorisation (Ewert and Müller 2012, "Using score-informed constraints for NMF-based source
 * separation").
 */
const { max, min } = Math;

/** Strokes of one drum in a spectrogram. */
export interface StrokeTrain {
  /** Frames in which strokes begin; may lie ahead of the first. */
  starts: Int32Array;
  /** How loud each is beside the others. */
  gains: Float32Array;
  /** Frames that one lasts at most. */
  length: number;
  /** How far the drum can sound, 0–1, `length × bands`. */
  allowed: Float32Array;
  /** In each frame the first band in which it can, and where they end. */
  spans: Int32Array;
  /** The most of each frame beside the loudest of those before it, `length`: a stroke dies away. */
  ceilings: Float32Array;
}

/** Where a drum can sound at all: much of the work is saved in between. */
export function spansOf(allowed: Float32Array, bands: number): Int32Array {
  const spans = new Int32Array((2 * allowed.length) / bands);
  for (let t = 0; t < spans.length / 2; t++) {
    let first = 0;
    let end = bands;
    while (first < end && allowed[t * bands + first] === 0) first++;
    while (end > first && allowed[t * bands + end - 1] === 0) end--;
    spans[2 * t] = first;
    spans[2 * t + 1] = end;
  }
  return spans;
}

const tiny = 1e-9;
/** What stands out of the model by more than this counts as this much: it is something else. */
const mostRatio = 2;
const rounds = 6;

/** Adds what a drum leaves at all its strokes. */
export function addStrokes(
  sum: Float32Array,
  bands: number,
  { starts, gains, length, spans }: StrokeTrain,
  template: Float32Array,
): void {
  const frames = sum.length / bands;
  for (let s = 0; s < starts.length; s++) {
    const start = starts[s]!;
    const gain = gains[s]!;
    const shift = start * bands;
    for (let t = max(0, -start); t < min(length, frames - start); t++) {
      const end = t * bands + spans[2 * t + 1]!;
      for (let i = t * bands + spans[2 * t]!; i < end; i++) sum[shift + i]! += gain * template[i]!;
    }
  }
}

/** At first each drum is taken to be all that stands out of the background behind its strokes. */
function firstTemplate(
  magnitudes: Float32Array,
  background: Float32Array,
  bands: number,
  { starts, gains, length, allowed }: StrokeTrain,
): Float32Array {
  const frames = magnitudes.length / bands;
  const template = new Float32Array(length * bands);
  const weights = new Float64Array(length);
  for (let s = 0; s < starts.length; s++) {
    const gain = gains[s]!;
    for (let t = max(0, -starts[s]!); t < min(length, frames - starts[s]!); t++) {
      weights[t]! += gain * gain;
      const at = (starts[s]! + t) * bands;
      for (let band = 0; band < bands; band++)
        template[t * bands + band]! += gain * max(0, magnitudes[at + band]! - background[at + band]!);
    }
  }
  for (let i = 0; i < template.length; i++) {
    const weight = weights[(i / bands) | 0]!;
    template[i] = (template[i]! / (weight + tiny) + tiny) * allowed[i]!;
  }
  return template;
}

/** Magnitudes over the model, in place of the model. */
function ratios(magnitudes: Float32Array, model: Float32Array): void {
  for (let i = 0; i < model.length; i++) model[i] = min(mostRatio, magnitudes[i]! / (model[i]! + tiny));
}

/** One round for the template of a drum, in place. */
function updateTemplate(
  ratio: Float32Array,
  bands: number,
  train: StrokeTrain,
  template: Float32Array,
): void {
  const { starts, gains, length, spans } = train;
  const frames = ratio.length / bands;
  const sums = new Float32Array(template.length);
  const weights = new Float64Array(length);
  for (let s = 0; s < starts.length; s++) {
    const gain = gains[s]!;
    const first = max(0, -starts[s]!);
    const last = min(length, frames - starts[s]!);
    const shift = starts[s]! * bands;
    for (let t = first; t < last; t++) {
      weights[t]! += gain;
      const end = t * bands + spans[2 * t + 1]!;
      for (let i = t * bands + spans[2 * t]!; i < end; i++) sums[i]! += gain * ratio[shift + i]!;
    }
  }
  for (let t = 0; t < length; t++) {
    const scale = 1 / (weights[t]! + tiny);
    for (let i = t * bands; i < (t + 1) * bands; i++) template[i]! *= sums[i]! * scale;
  }
}

/** One round for the gains of a drum's strokes, in place. */
export function updateGains(
  ratio: Float32Array,
  bands: number,
  { starts, gains, length, spans }: StrokeTrain,
  template: Float32Array,
): void {
  const frames = ratio.length / bands;
  for (let s = 0; s < starts.length; s++) {
    const start = starts[s]!;
    const shift = start * bands;
    let explained = 0;
    let whole = 0;
    for (let t = max(0, -start); t < min(length, frames - start); t++) {
      const end = t * bands + spans[2 * t + 1]!;
      for (let i = t * bands + spans[2 * t]!; i < end; i++) {
        explained += template[i]! * ratio[shift + i]!;
        whole += template[i]!;
      }
    }
    if (whole > 0) gains[s]! *= explained / whole;
  }
}

/** Takes from a template what does not die away as its drum does: something else sounds on there. */
function dieAway(template: Float32Array, bands: number, { length, spans, ceilings }: StrokeTrain): void {
  const most = new Float32Array(bands);
  for (let t = 0; t < length; t++) {
    const ceiling = ceilings[t]!;
    for (let band = spans[2 * t]!; band < spans[2 * t + 1]!; band++) {
      const own = template[t * bands + band]!;
      if (ceiling >= 1) most[band] = max(most[band]!, own);
      else template[t * bands + band] = min(own, ceiling * most[band]!);
    }
  }
}

/**
 * @param magnitudes of what is to be explained, `frames × bands`, frame by frame.
 * @param background what sounds on, as long.
 * @param trains their gains are fitted in place.
 * @returns one template a train, `length × bands`, for a stroke of gain 1.
 */
export function fitTemplates(
  magnitudes: Float32Array,
  background: Float32Array,
  bands: number,
  trains: readonly StrokeTrain[],
): Float32Array[] {
  const templates = trains.map((train) => firstTemplate(magnitudes, background, bands, train));
  const model = new Float32Array(magnitudes.length);
  for (let round = 0; round < rounds; round++) {
    model.set(background);
    trains.forEach((train, k) => addStrokes(model, bands, train, templates[k]!));
    ratios(magnitudes, model);
    // By turns: together they would run away.
    trains.forEach((train, k) => {
      if (round % 2 === 1) updateGains(model, bands, train, templates[k]!);
      else updateTemplate(model, bands, train, templates[k]!);
      if (round % 2 === 0) dieAway(templates[k]!, bands, train);
    });
  }
  return templates;
}

/** Fits the gains alone to what is to be explained, in place; `model` is left with the ratios. */
export function fitGains(
  magnitudes: Float32Array,
  model: Float32Array,
  bands: number,
  trains: readonly StrokeTrain[],
  templates: readonly Float32Array[],
): void {
  ratios(magnitudes, model);
  trains.forEach((train, k) => updateGains(model, bands, train, templates[k]!));
}
