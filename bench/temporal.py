"""A temporal convolutional network (Bai et al. 2018, "An Empirical Evaluation of Generic Convolutional and
Recurrent Networks for Sequence Modeling") as `src/core/dsp/vector/temporalNetwork.ts` runs it: one layer over
a few frames, which also knows the track by its usual levels, then blocks over three frames each, ever farther
apart, each added to what it had. Needs Debian's python3-torch and python3-numpy.
"""

import base64
import time

import numpy as np
import torch
from torch import nn


class TemporalNetwork(nn.Module):
    def __init__(self, inputs, width, taps, dilations, units, drop):
        super().__init__()
        self.width, self.dilations = width, dilations
        self.first = nn.Conv1d(inputs, width, taps, padding=taps // 2)
        self.track = nn.Linear(2 * inputs, width)
        self.blocks = nn.ModuleList(nn.Conv1d(width, width, 3, padding=d, dilation=d) for d in dilations)
        self.norms = nn.ModuleList(nn.BatchNorm1d(width, momentum=0.05) for _ in dilations)
        self.last = nn.Conv1d(width, units, 1)
        self.register_buffer("mean", torch.zeros(inputs))
        self.register_buffer("deviation", torch.ones(inputs))
        self.register_buffer("track_mean", torch.zeros(2 * inputs))
        self.register_buffer("track_deviation", torch.ones(2 * inputs))
        self.drop = nn.Dropout1d(drop)

    def forward(self, rows, track):
        x = (rows - self.mean[:, None]) / self.deviation[:, None]
        known = self.track((track - self.track_mean) / self.track_deviation)
        x = torch.relu(self.first(x) + known[:, :, None])
        for block, norm in zip(self.blocks, self.norms):
            x = x + self.drop(torch.relu(norm(block(x))))
        return self.last(x)

    def know(self, rows, tracks, least):
        """Sets mean and spread of rows and tracks, `least` added to what they spread by."""
        self.mean.copy_(torch.from_numpy(rows.mean(0)))
        self.deviation.copy_(torch.from_numpy(rows.std(0) + least))
        self.track_mean.copy_(torch.from_numpy(tracks.mean(0)))
        self.track_deviation.copy_(torch.from_numpy(tracks.std(0) + least))


def track_of(rows):
    """How a track is known: mean and loud level of each input."""
    return np.concatenate([rows.mean(0), np.quantile(rows, 0.97, axis=0)]).astype(np.float32)


def rate_at(share, step):
    """Learning rate: rises over the first hundred steps, then falls along a cosine."""
    return 2e-3 * (0.02 + 0.98 * 0.5 * (1 + np.cos(np.pi * share))) * min(1, (step + 1) / 100)


def train(network, minutes, batches, loss_of, report, decay, tell):
    """Trains by Adam (Kingma & Ba 2014) for so long.

    batches: yields rows, track and what is true of them, again and again.
    tell: after so many steps the loss is printed, after five times as many what is reached on the measuring halves.
    """
    optimiser = torch.optim.Adam(network.parameters(), lr=2e-3, weight_decay=decay)
    begun, step, loss_sum = time.time(), 0, 0.0
    limit = minutes * 60
    while limit > 0 and time.time() - begun < limit:
        for rows, track, *truth in batches():
            share = min(1, (time.time() - begun) / limit)
            for group in optimiser.param_groups:
                group["lr"] = rate_at(share, step)
            loss = loss_of(network(rows, track), *truth)
            optimiser.zero_grad()
            loss.backward()
            nn.utils.clip_grad_norm_(network.parameters(), 2.0)
            optimiser.step()
            loss_sum += loss.item()
            step += 1
        if step % tell == 0:
            print(f"{(time.time() - begun) / 60:.1f} min, step {step}: {loss_sum / tell:.4f}", flush=True)
            loss_sum = 0.0
            if step % (5 * tell) == 0:
                report()
    report()


def text(array):
    return base64.b64encode(np.ascontiguousarray(array).tobytes()).decode()


def plain(tensor):
    return tensor.detach().numpy().astype(np.float64)


def packed(weights, biases):
    """Unit by unit, inputs within; signed bytes with a scale a unit."""
    rows = weights.reshape(len(weights), -1)
    scales = (np.abs(rows).max(1) / 127).astype(np.float32)
    q = np.clip(np.round(rows / scales[:, None]), -127, 127).astype(np.int8)
    return f'{{ weights: "{text(q)}", scales: "{text(scales)}", biases: "{text(biases.astype(np.float32))}" }}'


def write(network, path, name, about):
    """Writes a network as TypeScript. Norms and scales go into the layers: what runs is multiplication and addition."""
    # What lies before the beginning and after the end is 0, which there stands for the mean: no shift there.
    first = packed(plain(network.first.weight) / plain(network.deviation)[None, :, None], plain(network.first.bias))
    track_weights = plain(network.track.weight) / plain(network.track_deviation)[None]
    track = packed(track_weights, plain(network.track.bias) - track_weights @ plain(network.track_mean))
    blocks = []
    for block, norm in zip(network.blocks, network.norms):
        scale = plain(norm.weight) / np.sqrt(plain(norm.running_var) + norm.eps)
        blocks.append(
            packed(
                plain(block.weight) * scale[:, None, None],
                (plain(block.bias) - plain(norm.running_mean)) * scale + plain(norm.bias),
            )
        )
    last = packed(plain(network.last.weight), plain(network.last.bias))
    with open(path, "w") as out:
        out.write(
            f"/** {about}; weights as signed bytes (unit by unit), scales and biases as 32-bit floats, in\n"
            " * base64. Not edited by hand. */\n"
            f"// oxfmt-ignore\nexport const {name} = {{\n"
            f"  width: {network.width},\n  dilations: {network.dilations},\n"
            f'  means: "{text(plain(network.mean).astype(np.float32))}",\n'
            f"  first: {first},\n  track: {track},\n  blocks: [\n"
            + "".join(f"    {block},\n" for block in blocks)
            + f"  ],\n  last: {last},\n}};\n"
        )
