"""Fits the bass network on the frames of `bench/bassFrames.ts` and writes src/core/lowEnd/bassLineModel.ts.

A temporal convolutional network (`bench/temporal.py`): of each frame it says which pitch the bass plays, or
none, and whether a note begins. There are few pieces, so none is heard twice alike: every passage is moved by
up to six semitones, many are played faster or slower, have what another piece plays above its bass laid over
them, or lack a range of the spectrum. Trained by Adam (Kingma & Ba 2014). Needs Debian's python3-torch and
python3-numpy.

    for source in own midi slid empty: npx tsx bench/bassFrames.ts --source .. --half fit
    (own and midi: and measure)
    /usr/bin/python3 bench/fitBassLine.py --out src/core/lowEnd/bassLineModel.ts

Without `--out` nothing is written: what the model reaches is printed, by source, on the measuring halves.
"""

import argparse
import glob
import json

import numpy as np
import torch
from torch.nn import functional as F

from temporal import TemporalNetwork, track_of, train, write

parser = argparse.ArgumentParser()
parser.add_argument("--sources", default="own,midi,slid,empty")
parser.add_argument("--minutes", type=float, default=20, help="of training")
parser.add_argument("--width", type=int, default=96)
parser.add_argument("--out", default="")
parser.add_argument("--keep", default="", help="where the fitted weights are kept, for a later --from")
parser.add_argument("--from", dest="begin", default="")
parser.add_argument("--dump", default="", help="where the answers of the measuring halves are kept")
arguments = parser.parse_args()

# As in src/core/lowEnd/bassSpectra.ts.
LONG, SHORT, CURVES = 118, 56, 2
PER_SEMITONE = (2, 1)
INPUTS, HOP = LONG + SHORT + CURVES, 0.02
LOWEST, PITCHES = 20, 39
NONE, ONSET = PITCHES, PITCHES + 1
DILATIONS = [1, 2, 4, 8, 16]
WIDTH, FIRST_TAPS = arguments.width, 3
SEGMENT, BATCH, FURTHEST = 300, 32, 6
random = np.random.default_rng(7)
torch.manual_seed(7)
torch.set_num_threads(2)


class Take:
    def __init__(self, path, source):
        self.source = source
        rows = np.fromfile(path, dtype=np.float32).reshape(-1, INPUTS)
        told = json.load(open(path.replace(".bin", ".json")))
        self.name = told["name"]
        slides = told.get("slides", [])
        self.notes = [note for note in told["notes"] if note[0] < len(rows) * HOP - 0.1]
        frames = len(rows)
        self.rows = rows.astype(np.float16)
        self.pitch = np.full(frames, NONE, np.int64)
        for start, end, pitch in self.notes:
            # A slide begins no note, but moves its pitch.
            first, last = int(np.ceil(start / HOP)), int(np.ceil(min(end, start + 8) / HOP))
            self.pitch[first : max(first + 2, last)] = pitch - LOWEST if 0 <= pitch - LOWEST < PITCHES else -1
        for start, end, by in slides:
            note = max((own for own in self.notes if own[0] <= start), default=None)
            if note:
                first, last = int((start + end) / 2 / HOP), int(np.ceil(note[1] / HOP))
                to = note[2] + by - LOWEST
                self.pitch[first:last] = to if 0 <= to < PITCHES else -1
        self.track = track_of(rows)


def load(source, half):
    return [Take(path, source) for path in sorted(glob.glob(f".cache/bass-frames/{source}-{half}/*.bin"))]


network = TemporalNetwork(INPUTS, WIDTH, FIRST_TAPS, DILATIONS, PITCHES + 2, 0.15)
with torch.no_grad():
    network.last.bias[ONSET] = -3


def moved(values, semitones):
    """Levels on both scales moved along the last axis; what comes in from outside is silent."""
    out = values.copy()
    at = 0
    for bins, per in zip((LONG, SHORT), PER_SEMITONE):
        by = per * semitones
        part = values[..., at : at + bins]
        new = np.zeros_like(part)
        if by >= 0:
            new[..., by:] = part[..., : bins - by]
        else:
            new[..., :by] = part[..., -by:]
        out[..., at : at + bins] = new
        at += bins
    return out


PLACES = np.concatenate([np.arange(LONG) / LONG, np.arange(SHORT) / SHORT])
WAVES = np.cos(np.pi * np.arange(5)[:, None] * PLACES[None])
SPREAD = np.array([1.5, 3.5, 3.0, 2.0, 1.5])


def coloured(values):
    """Another colour of the same sound, as an equaliser gives it: levels are log10(1 + 30 x magnitude)."""
    gain = 10 ** ((random.standard_normal(5) * SPREAD) @ WAVES / 20)
    change = lambda x: np.log10(1 + (10**x - 1) * gain)
    return change


def stretched(take, begin, ratio):
    """A passage played so many times as fast: rows, pitches, beginnings."""
    places = begin + np.arange(SEGMENT) * ratio
    low = np.minimum(places.astype(int), len(take.rows) - 2)
    share = np.clip(places - low, 0, 1)[:, None].astype(np.float32)
    rows = take.rows[low].astype(np.float32) * (1 - share) + take.rows[low + 1].astype(np.float32) * share
    near = np.minimum(np.round(places).astype(int), len(take.rows) - 1)
    onset = np.zeros(SEGMENT, np.float32)
    for start, _, _ in take.notes:
        place = (start / HOP - begin) / ratio
        if -2 < place < SEGMENT + 2:
            for frame in range(max(0, int(place) - 1), min(SEGMENT, int(place) + 3)):
                onset[frame] = max(onset[frame], 1 - abs(frame - place) / 1.5)
    return rows, take.pitch[near], onset


# What lies above this is no bass: MIDI note numbers of the bins.
NOTES = np.concatenate([20 + np.arange(LONG) / 2, 24 + np.arange(SHORT)])


def laid_over(own, other):
    """Magnitudes of another piece above its bass added as powers."""
    above = np.clip((NOTES - random.uniform(44, 56)) / 6, 0, 1)
    gain = 10 ** (random.uniform(-14, 2) / 20)
    a, b = 10**own - 1, (10**other - 1) * gain * above
    return np.log10(1 + np.sqrt(a * a + b * b))


def without_range(own, track):
    """A range of up to an octave is silent."""
    low = random.uniform(20, 78)
    gone = (NOTES >= low) & (NOTES < low + random.uniform(2, 12))
    own[:, : LONG + SHORT][:, gone] *= 0.3
    track[:, : LONG + SHORT][:, gone] *= 0.3


def batches(takes, count):
    weights = np.array([len(take.rows) ** 0.5 * (2 if take.source == "midi" else 1) for take in takes])
    weights /= weights.sum()
    for _ in range(count):
        rows, tracks, pitches, onsets = [], [], [], []
        for index in random.choice(len(takes), BATCH, p=weights):
            take = takes[index]
            begin = random.integers(0, max(1, len(take.rows) - SEGMENT))
            ratio = random.uniform(0.75, 1.3) if random.random() < 0.5 else 1.0
            begin = min(begin, max(0, int(len(take.rows) - SEGMENT * ratio - 2)))
            own, pitch, onset = stretched(take, begin, ratio)
            pitch = pitch.copy()
            track = take.track.reshape(2, INPUTS).copy()
            if random.random() < 0.4:
                other = takes[random.integers(len(takes))]
                at = random.integers(0, max(1, len(other.rows) - SEGMENT))
                part = other.rows[at : at + SEGMENT].astype(np.float32)
                if len(part) == SEGMENT:
                    by = int(random.integers(-FURTHEST, FURTHEST + 1))
                    own[:, : LONG + SHORT] = laid_over(own[:, : LONG + SHORT], moved(part, by)[:, : LONG + SHORT])
            by = int(random.integers(-FURTHEST, FURTHEST + 1))
            own, track = moved(own, by), moved(track, by)
            change = coloured(own)
            own[:, : LONG + SHORT] = change(own[:, : LONG + SHORT])
            track[:, : LONG + SHORT] = change(track[:, : LONG + SHORT])
            if random.random() < 0.4:
                without_range(own, track)
            # What else is heard may be wrong.
            if random.random() < 0.25:
                own[:, LONG + SHORT :] *= random.random(2)
            sounds = (pitch >= 0) & (pitch < PITCHES)
            pitch[sounds] += by
            pitch[sounds & ((pitch < 0) | (pitch >= PITCHES))] = -1
            rows.append(own.T)
            tracks.append(track.reshape(-1))
            pitches.append(pitch)
            onsets.append(onset)
        yield (
            torch.from_numpy(np.stack(rows)),
            torch.from_numpy(np.stack(tracks).astype(np.float32)),
            torch.from_numpy(np.stack(pitches)),
            torch.from_numpy(np.stack(onsets)),
        )


def loss_of(answer, pitch, onset):
    weight = torch.ones(PITCHES + 1)
    weight[NONE] = 0.5
    heard = F.cross_entropy(answer[:, : PITCHES + 1], pitch, weight=weight, ignore_index=-1, label_smoothing=0.04)
    begins = F.binary_cross_entropy_with_logits(
        answer[:, ONSET], onset, pos_weight=torch.tensor(2.0), reduction="none"
    )
    return heard + 4 * begins.mean()


def heard(take):
    with torch.no_grad():
        rows = torch.from_numpy(take.rows.astype(np.float32).T[None])
        answer = network(rows, torch.from_numpy(take.track[None]))[0].numpy()
    pitches = answer[: PITCHES + 1]
    pitches = pitches - pitches.max(0)
    logs = pitches - np.log(np.exp(pitches).sum(0))
    return logs, 1 / (1 + np.exp(-answer[ONSET]))


def tops(curve, least):
    found = []
    for i in range(1, len(curve) - 1):
        if curve[i] >= least and curve[i] >= curve[i - 1] and curve[i] > curve[i + 1]:
            a, b, c = curve[i - 1 : i + 2]
            bend = a - 2 * b + c
            off = 0.5 * (a - c) / bend if bend < 0 else 0
            if found and (i + off) * HOP - found[-1] < 0.06:
                continue
            found.append((i + off) * HOP)
    return found


def line_of(logs, onsets, least=0.35):
    starts = tops(onsets, least)
    notes = []
    for i, start in enumerate(starts):
        first = int(np.ceil((start + 0.02) / HOP))
        until = starts[i + 1] - 0.02 if i + 1 < len(starts) else start + 1
        last = max(first + 1, min(int(until / HOP), first + 20))
        mean = logs[:PITCHES, first:last].mean(1)
        notes.append((start, LOWEST + int(mean.argmax())))
    return notes


def f_measure(found, true, with_pitch):
    used, count = set(), 0
    for start, _, pitch in true:
        for i, (own, midi) in enumerate(found):
            if i not in used and abs(own - start) <= 0.05 and (not with_pitch or midi == pitch):
                used.add(i)
                count += 1
                break
    return 2 * count / max(1, len(found) + len(true))


def report():
    network.eval()
    for source in ("midi", "own"):
        rows = []
        for take in load(source, "measure"):
            logs, onsets = heard(take)
            notes = line_of(logs, onsets)
            right = np.mean(
                [np.argmax(logs[:PITCHES, i]) == take.pitch[i] for i in range(len(take.pitch)) if 0 <= take.pitch[i] < PITCHES]
            )
            rows.append((take.name, f_measure(notes, take.notes, False), f_measure(notes, take.notes, True), right))
        fonts = [name.split()[-1] for name, *_ in rows] if source == "midi" else ["own"] * len(rows)
        for font in sorted(set(fonts)):
            own = np.array([row[1:] for row, f in zip(rows, fonts) if f == font])
            print(f"  {font:8} beginnings {own[:, 0].mean():.3f}, with pitch {own[:, 1].mean():.3f}, frames {own[:, 2].mean():.3f}", flush=True)
        if source == "midi":
            for name, *own in sorted(rows, key=lambda row: row[2])[:6]:
                print("   ", name, " ".join(f"{x:.2f}" for x in own))
    network.train()


if __name__ == "__main__":
    fit = [take for source in arguments.sources.split(",") for take in load(source, "fit")]
    print(len(fit), "takes to fit on", flush=True)
    some = np.concatenate([take.rows[::23].astype(np.float32) for take in fit])
    network.know(some, np.stack([take.track for take in fit]), 0.05)
    if arguments.begin:
        network.load_state_dict(torch.load(arguments.begin))
    train(network, arguments.minutes, lambda: batches(fit, 20), loss_of, report, decay=2e-5, tell=200)
    if arguments.keep:
        torch.save(network.state_dict(), arguments.keep)
    if arguments.dump:
        network.eval()
        for source in ("midi", "own"):
            for i, take in enumerate(load(source, "measure")):
                logs, onsets = heard(take)
                np.savez(f"{arguments.dump}/{source}-{i:03}.npz", logs=logs.astype(np.float16), onsets=onsets, notes=np.array(take.notes), name=take.name, heard=take.rows[:, LONG + SHORT :])
    if arguments.out:
        write(
            network,
            arguments.out,
            "bassLineModel",
            "Fitted by `bench/fitBassLine.py` on takes of `bench/bassFrames.ts`, fitting halves of the sources\n"
            f" * {arguments.sources}",
        )
