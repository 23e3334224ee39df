"""Fits the drum model on the frames of `bench/drumFrames.ts` and writes src/core/drums/model.ts.

A network of two hidden layers, trained by Adam (Kingma & Ba 2014) on soft targets: 1 on the frame
of a hit, falling to 0 at 20 ms. Needs Python 3 with numpy; nothing else in the project does.

    for seeds in "201 228" "301 328" "401 416": npx tsx bench/drumFrames.ts --from .. --to ..
    python3 bench/fitDrums.py
"""

import argparse
import base64
import glob
import json
import os

import numpy as np

parser = argparse.ArgumentParser()
parser.add_argument("--epochs", type=int, default=12)
parser.add_argument("--held", default="", help="seeds left out and tried at the end, as 223,224")
parser.add_argument("--out", default="src/core/drums/model.ts")
arguments = parser.parse_args()

BANDS, VOICES, RATE = 40, 10, 100.0
CONTEXT = [-6, -3, -2, -1, 0, 1, 2, 3, 4, 6, 9, 14]
HIDDEN = [128, 64]
random = np.random.default_rng(7)


def load(path):
    levels = np.fromfile(path, dtype=np.float32).reshape(-1, BANDS)
    frames = len(levels)
    target = np.zeros((frames, VOICES), np.float32)
    velocity = np.full((frames, VOICES), np.nan, np.float32)
    for time, voice, force in json.load(open(path.replace(".bin", ".json"))):
        place = time * RATE
        for frame in range(int(place) - 2, int(place) + 4):
            if 0 <= frame < frames:
                near = 1 - abs(frame - place) / 2
                target[frame, voice] = max(target[frame, voice], near)
        frame = int(round(place))
        if 0 <= frame < frames:
            velocity[frame, voice] = force
    track = np.concatenate([levels.mean(0), np.percentile(levels, 97, axis=0)]).astype(np.float32)
    return levels, target, velocity, track


held_seeds = [s for s in arguments.held.split(",") if s]
fit, held = [], []
for path in sorted(glob.glob(".cache/drum-frames/*.bin")):
    if not os.path.exists(path.replace(".bin", ".json")):
        continue
    seed = os.path.basename(path).rsplit("-", 2)[1]
    (held if seed in held_seeds else fit).append(load(path))
print(len(fit), "clips to fit on,", len(held), "held out")

edge = max(CONTEXT)
pad = lambda levels: np.pad(levels, ((-min(CONTEXT), edge), (0, 0)))
stacked, targets, velocities, owner, places = [], [], [], [], []
offset = 0
for n, (levels, target, velocity, _) in enumerate(fit):
    keep = (target.max(1) > 0.02) | (random.random(len(levels)) < 0.4)
    frames = np.nonzero(keep)[0]
    places.append(frames + offset - min(CONTEXT))
    owner.append(np.full(len(frames), n))
    targets.append(target[frames])
    velocities.append(velocity[frames])
    padded = pad(levels)
    stacked.append(padded)
    offset += len(padded)
stacked = np.concatenate(stacked)
targets, velocities = np.concatenate(targets), np.concatenate(velocities)
owner, places = np.concatenate(owner), np.concatenate(places)
tracks = np.stack([f[3] for f in fit])
mean = np.concatenate([np.tile(stacked.mean(0), len(CONTEXT)), tracks.mean(0)])
deviation = np.concatenate([np.tile(stacked.std(0), len(CONTEXT)), tracks.std(0)]) + 1e-3
print(len(places), "frames")


def inputs(source, rows, track):
    x = np.concatenate([source[rows + c] for c in CONTEXT] + [track], axis=1)
    return ((x - mean) / deviation).astype(np.float32)


sizes = [len(mean), *HIDDEN, 2 * VOICES]
weights = [
    random.normal(0, np.sqrt(2 / a), (a, b)).astype(np.float32) for a, b in zip(sizes, sizes[1:])
]
biases = [np.zeros(b, np.float32) for b in sizes[1:]]
biases[-1][:VOICES] = -3
parameters = weights + biases
first = [np.zeros_like(p) for p in parameters]
second = [np.zeros_like(p) for p in parameters]


def forward(x):
    kept = [x]
    for i, (w, b) in enumerate(zip(weights, biases)):
        x = x @ w + b
        if i < len(weights) - 1:
            x = np.maximum(x, 0)
        kept.append(x)
    return kept


sigmoid = lambda z: 1 / (1 + np.exp(-np.clip(z, -30, 30)))
batch, step = 512, 0
total = arguments.epochs * (len(places) // batch)
for epoch in range(arguments.epochs):
    order, loss = random.permutation(len(places)), 0.0
    for k in range(len(order) // batch):
        rows = order[k * batch : (k + 1) * batch]
        x = inputs(stacked, places[rows], tracks[owner[rows]])
        x += 0.05 * random.standard_normal(x.shape, dtype=np.float32)
        kept = forward(x)
        chance = sigmoid(kept[-1][:, :VOICES])
        wanted = targets[rows]
        known = ~np.isnan(velocities[rows])
        error = np.where(known, kept[-1][:, VOICES:] - np.nan_to_num(velocities[rows]), 0)
        loss += -np.mean(
            wanted * np.log(chance + 1e-7) + (1 - wanted) * np.log(1 - chance + 1e-7)
        )
        gradient = np.concatenate([chance - wanted, 2 * error], axis=1) / batch
        gradients_w, gradients_b = [], []
        for i in reversed(range(len(weights))):
            gradients_w.insert(0, kept[i].T @ gradient)
            gradients_b.insert(0, gradient.sum(0))
            if i:
                gradient = (gradient @ weights[i].T) * (kept[i] > 0)
        step += 1
        rate = 1.5e-3 * 0.5 * (1 + np.cos(np.pi * step / total)) + 1e-5
        for n, (p, g) in enumerate(zip(parameters, gradients_w + gradients_b)):
            if n < len(weights):
                g = g + 1e-5 * p
            first[n] += 0.1 * (g - first[n])
            second[n] += 0.001 * (g * g - second[n])
            p -= rate * (first[n] / (1 - 0.9**step)) / (
                np.sqrt(second[n] / (1 - 0.999**step)) + 1e-8
            )
    print("epoch", epoch + 1, "loss", round(loss / max(1, len(order) // batch), 5), flush=True)

# The scaling of the inputs goes into the first layer; then a byte a weight, one scale a unit.
folded = weights[0] / deviation[:, None]
biases[0] = biases[0] - mean @ folded
final = [folded, *weights[1:]]


def quantised(w):
    """A byte a weight, with a scale for each unit."""
    scale = np.abs(w).max(0) / 127 + 1e-12
    return np.round(w / scale).astype(np.int8), scale.astype(np.float32)


packed = [quantised(w) for w in final]


def activations(levels, track):
    """What the written model gives for a clip, byte weights included."""
    rows = np.arange(len(levels)) - min(CONTEXT)
    x = np.concatenate(
        [pad(levels)[rows + c] for c in CONTEXT] + [np.tile(track, (len(levels), 1))], axis=1
    )
    for i, ((q, s), b) in enumerate(zip(packed, biases)):
        x = x @ (q * s) + b
        if i < len(packed) - 1:
            x = np.maximum(x, 0)
    return sigmoid(x[:, :VOICES]), x[:, VOICES:]


def score(found, true):
    found, true, hits, i, j = sorted(found), sorted(true), 0, 0, 0
    while i < len(found) and j < len(true):
        if abs(found[i] - true[j]) <= 0.05:
            hits, i, j = hits + 1, i + 1, j + 1
        elif found[i] < true[j]:
            i += 1
        else:
            j += 1
    return np.array([hits, len(found), len(true)])


names = ["kick", "snare", "clap", "rim", "hat", "openHat", "tom", "cymbal", "perc", "bass"]
for threshold in [0.2, 0.3, 0.4] if held else []:
    sums = {}
    for n, (levels, target, _, track) in enumerate(held):
        chance, _ = activations(levels, track)
        for v, name in enumerate(names):
            c = chance[:, v]
            peaks = np.nonzero(
                (c[1:-1] >= threshold) & (c[1:-1] >= c[:-2]) & (c[1:-1] > c[2:])
            )[0] + 1
            t = target[:, v]
            true = np.nonzero((t[1:-1] > 0.5) & (t[1:-1] >= t[:-2]) & (t[1:-1] > t[2:]))[0] + 1
            key = (name, n % 2)
            sums[key] = sums.get(key, 0) + score(peaks / RATE, true / RATE)
    print(threshold, "  ".join(
        f"{name}{'/alone' if k else ''} {2 * h / max(1, a + b):.3f}"
        for (name, k), (h, a, b) in sorted(sums.items(), key=lambda e: (e[0][1], names.index(e[0][0])))
    ))

text = lambda array: base64.b64encode(np.ascontiguousarray(array).tobytes()).decode()
with open(arguments.out, "w") as out:
    out.write(
        "/** Fitted by `python3 bench/fitDrums.py` on clips of `bench/drumFrames.ts`; weights as signed\n"
        " * bytes (unit by unit), scales and biases as 32-bit floats, in base64. Not edited by hand. */\n"
        "// prettier-ignore\nexport const drumModel = {\n"
        f"  context: {json.dumps(CONTEXT)},\n  sizes: {json.dumps(sizes)},\n  layers: [\n"
    )
    for (q, s), b in zip(packed, biases):
        out.write(
            f'    {{ weights: "{text(q.T)}", scales: "{text(s)}", biases: "{text(b.astype(np.float32))}" }},\n'
        )
    out.write("  ],\n};\n")
