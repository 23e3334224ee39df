"""Fits a drum model on the frames of `bench/drumFrames.ts` and writes src/core/drums/model.ts, or, with
`--whitened`, src/core/drums/whitenedModel.ts.

A temporal convolutional network (Bai et al. 2018, "An Empirical Evaluation of Generic Convolutional
and Recurrent Networks for Sequence Modeling"): one layer over five frames, then blocks over three
frames each, ever farther apart, each added to what it had. Trained by Adam (Kingma & Ba 2014) on soft
targets: 1 on the frame of a stroke, falling to 0 at 20 ms. Voices of which not all strokes are known
do not count. Needs Debian's python3-torch and python3-numpy; nothing else in the project does.

    for source in own midi tracker: npx tsx bench/drumFrames.ts --source .. --half fit (and measure)
    /usr/bin/python3 bench/fitDrums.py --sources own,midi,tracker

Without `--out` nothing is written: what the model reaches is printed, by source, on the measuring
halves, so that a source can be left out of the fit.
"""

import argparse
import glob
import json

import numpy as np
import torch

from temporal import TemporalNetwork, track_of, train, write

parser = argparse.ArgumentParser()
parser.add_argument("--sources", default="own,midi,tracker")
parser.add_argument("--minutes", type=float, default=30, help="of training")
parser.add_argument("--width", type=int, default=64)
parser.add_argument("--out", default="")
parser.add_argument("--whitened", action="store_true", help="on bands without the colour of the track")
parser.add_argument("--keep", default="", help="where the fitted weights are kept, for a later --from")
parser.add_argument("--from", dest="begin", default="")
arguments = parser.parse_args()

BANDS, VOICES, RATE = 40, 10, 100.0
DILATIONS = [1, 2, 4, 8, 16, 32, 64]
WIDTH = arguments.width
SEGMENT, BATCH = 600, 24
names = ["kick", "snare", "clap", "rim", "hat", "openHat", "tom", "cymbal", "perc", "bass"]
KICK, SNARE, CLAP, HAT, OPEN = 0, 1, 2, 4, 5
random = np.random.default_rng(7)
torch.manual_seed(7)
torch.set_num_threads(2)


class Take:
    def __init__(self, path):
        read = path.replace(".bin", ".white") if arguments.whitened else path
        self.levels = np.fromfile(read, dtype=np.float32).reshape(-1, BANDS)
        frames = len(self.levels)
        told = json.load(open(path.replace(".bin", ".json")))
        self.strokes = told["strokes"]
        self.unsure = told["unsure"]
        self.merges = told["mergesClaps"]
        self.known = np.zeros(VOICES, np.float32)
        self.known[told["known"]] = 1
        self.target = np.zeros((frames, VOICES), np.float16)
        self.velocity = np.full((frames, VOICES), np.nan, np.float16)
        self.mask = np.ones((frames, VOICES), bool)
        for seconds, voice, force in self.strokes:
            place = seconds * RATE
            for frame in range(max(0, int(place) - 2), min(frames, int(place) + 4)):
                near = 1 - abs(frame - place) / 2
                self.target[frame, voice] = max(self.target[frame, voice], near)
            frame = int(round(place))
            if 0 <= frame < frames:
                self.velocity[frame, voice] = force
        for seconds, voice in self.unsure:
            place = int(round(seconds * RATE))
            self.mask[max(0, place - 4) : place + 5, voice] = False
        self.track = track_of(self.levels)


def load(source, half):
    return [Take(path) for path in sorted(glob.glob(f".cache/drum-frames/{source}-{half}/*.bin"))]


network = TemporalNetwork(BANDS, WIDTH, 5, DILATIONS, 2 * VOICES, 0.1)
with torch.no_grad():
    network.last.bias[:VOICES] = -4


WAVES = np.cos(np.pi * np.arange(5)[:, None] * (np.arange(BANDS) + 0.5)[None] / BANDS)
# Decibels: of the whole, then of ever finer colour. Little is left of an equaliser where bands are whitened.
SPREAD = np.array([1.5, 1.5, 1.5, 1.0, 1.0] if arguments.whitened else [1.5, 3.0, 2.5, 1.5, 1.0])


def coloured(levels, track):
    """Another colour of the same sound, as an equaliser gives it: levels are log10(1 + 30 x magnitude)."""
    gain = 10 ** ((random.standard_normal(5) * SPREAD) @ WAVES / 20)
    change = lambda x, g: np.log10(1 + (10**x - 1) * g)
    return change(levels, gain[:, None]), change(track, np.tile(gain, 2))


def batches(takes, count):
    """Segments of takes, every source as often as every other."""
    by_source = {}
    for take in takes:
        by_source.setdefault(take.source, []).append(take)
    groups = list(by_source.values())
    for _ in range(count):
        levels = np.zeros((BATCH, BANDS, SEGMENT), np.float32)
        track = np.zeros((BATCH, 2 * BANDS), np.float32)
        target = np.zeros((BATCH, VOICES, SEGMENT), np.float32)
        velocity = np.full((BATCH, VOICES, SEGMENT), np.nan, np.float32)
        mask = np.zeros((BATCH, VOICES, SEGMENT), np.float32)
        merges = np.zeros(BATCH, bool)
        for b in range(BATCH):
            group = groups[random.integers(len(groups))]
            take = group[random.integers(len(group))]
            start = random.integers(0, max(1, len(take.levels) - SEGMENT))
            span = slice(start, start + SEGMENT)
            n = len(take.levels[span])
            levels[b, :, :n] = take.levels[span].T
            track[b] = take.track
            if random.random() < 0.5:
                levels[b], track[b] = coloured(levels[b], track[b])
            target[b, :, :n] = take.target[span].T
            velocity[b, :, :n] = take.velocity[span].T
            mask[b, :, :n] = take.mask[span].T * take.known[:, None]
            merges[b] = take.merges
        levels += 0.03 * random.standard_normal(levels.shape, dtype=np.float32)
        yield [torch.from_numpy(x) for x in (levels, track, target, velocity, mask, merges)]


def loss_of(out, target, velocity, mask, merges):
    chance = torch.sigmoid(out[:, :VOICES])
    chance = chance.clamp(1e-5, 1 - 1e-5)
    # Where claps are written as snares, and open hats as hats, either will do.
    either = chance.clone()
    either[:, SNARE] = 1 - (1 - chance[:, SNARE]) * (1 - chance[:, CLAP])
    either[:, HAT] = 1 - (1 - chance[:, HAT]) * (1 - chance[:, OPEN])
    chance = torch.where(merges[:, None, None], either, chance)
    entropy = -(target * chance.log() + (1 - target) * (1 - chance).log())
    known = ~torch.isnan(velocity) & (mask > 0)
    error = torch.where(known, out[:, VOICES:] - torch.nan_to_num(velocity), torch.zeros(()))
    return (entropy * mask).sum() / mask.sum() * VOICES + 0.5 * (error**2).mean() * VOICES


def tops(curve, threshold):
    inner = curve[1:-1]
    return 1 + np.nonzero((inner >= threshold) & (inner >= curve[:-2]) & (inner > curve[2:]))[0]


def f_measure(found, true, unsure):
    """Onsets within 50 ms, one for one; what is found at unsure places counts neither way."""
    true, hits, wrong, k = sorted(true), 0, 0, 0
    used = np.zeros(len(true), bool)
    for t in found:
        near = [i for i, x in enumerate(true) if abs(x - t) <= 0.05 and not used[i]] if len(true) else []
        if near:
            used[min(near, key=lambda i: abs(true[i] - t))] = True
            hits += 1
        elif not any(abs(x - t) <= 0.05 for x in unsure):
            wrong += 1
    return 2 * hits / max(1, hits + wrong + len(true))


def heard(take):
    with torch.no_grad():
        out = network(torch.from_numpy(take.levels.T[None]), torch.from_numpy(take.track[None]))
    return torch.sigmoid(out[0, :VOICES]).numpy(), out[0, VOICES:].numpy()


def agreement(take, voices, velocities):
    """Correlation of velocities at the true strokes; none where all are as hard."""
    pairs = [
        (max(velocities[w, min(velocities.shape[1] - 1, int(round(s * RATE)))] for w in [v]), force)
        for s, v, force in take.strokes
        if v in voices
    ]
    if len(pairs) < 20 or np.std([b for _, b in pairs]) < 0.02:
        return None
    return np.corrcoef(np.array(pairs).T)[0, 1]


GROUPS = {"kick": [KICK], "snare": [SNARE, CLAP], "hats": [HAT, OPEN]}


def report():
    network.eval()
    for source in ("midi", "tracker", "own"):
        takes = load(source, "measure")
        kept = {name: [] for name in GROUPS}
        forces = {name: [] for name in GROUPS}
        false = []
        for take in takes:
            curves, velocities = heard(take)
            for name, voices in GROUPS.items():
                if not take.known[voices[0]]:
                    continue
                curve = 1 - np.prod([1 - curves[v] for v in voices], axis=0)
                found = tops(curve, 0.35) / RATE
                agreed = agreement(take, voices, velocities)
                if agreed is not None:
                    forces[name].append(agreed)
                true = sorted({round(s, 3) for s, v, _ in take.strokes if v in voices})
                unsure = [s for s, v in take.unsure if v in voices]
                if len(true) >= 8:
                    kept[name].append(f_measure(found, true, unsure))
                elif len(true) == 0 and len(take.strokes) == 0:
                    false.append(len(found) * 60 / (len(take.levels) / RATE))
        print(
            f"  {source:8}",
            "  ".join(f"{n} {np.mean(f) if f else np.nan:.3f} (worst tenth {np.quantile(f, 0.1) if f else np.nan:.2f})" for n, f in kept.items()),
            "  velocity " + " / ".join(f"{np.mean(f) if f else np.nan:.2f}" for f in forces.values()),
            f"  false a minute, each voice {np.mean(false):.1f}" if false else "",
            flush=True,
        )
    network.train()


fit = []
for source in arguments.sources.split(","):
    own = load(source, "fit")
    for take in own:
        take.source = source
    fit += own
print(len(fit), "takes to fit on", flush=True)

some = np.concatenate([take.levels[:: 11] for take in fit])
network.know(some, np.stack([take.track for take in fit]), 1e-3)
if arguments.begin:
    network.load_state_dict(torch.load(arguments.begin))

train(network, arguments.minutes, lambda: batches(fit, 50), loss_of, report, decay=1e-6, tell=500)
if arguments.keep:
    torch.save(network.state_dict(), arguments.keep)

if arguments.out:
    write(
        network,
        arguments.out,
        "whitenedDrumModel" if arguments.whitened else "drumModel",
        "Fitted by `bench/fitDrums.py` on takes of `bench/drumFrames.ts`, fitting halves of the sources\n"
        f" * {arguments.sources}",
    )
