"""Training the ear: a small stack of dilated convolutions.

From augmented spectra it learns what is heard and where it changes.
"""

import time
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import torch
from numpy.typing import NDArray
from torch import nn

from tinfork.core.ear.hearing import BANDS
from tinfork.core.ear.phones import HEARD

CHANNELS = 160
DILATIONS = (1, 2, 4, 8, 1, 2, 4, 8, 1)
_CROP, _BATCH = 320, 16
_SMOOTHING = 0.04
#: The highest rate of learning, from nothing and from weights that were learnt before.
_RATE, _RATE_ON = 2e-3, 1.2e-3


class _Block(nn.Module):
    """A dilated convolution over three frames, added to what comes in."""

    def __init__(self, dilation: int) -> None:
        super().__init__()
        self.conv = nn.Conv1d(CHANNELS, CHANNELS, 3, padding=dilation, dilation=dilation, bias=False)
        self.norm = nn.BatchNorm1d(CHANNELS)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        """Shape (batch, channels, frames) in and out."""
        return x + torch.relu(self.norm(self.conv(x)))


class TrainedNetwork(nn.Module):
    """Bands to what is heard (logits) and one more output: whether a sound begins or ends in this frame."""

    def __init__(self) -> None:
        super().__init__()
        self.first = nn.Conv1d(BANDS, CHANNELS, 5, padding=2, bias=False)
        self.norm = nn.BatchNorm1d(CHANNELS)
        self.blocks = nn.ModuleList(_Block(d) for d in DILATIONS)
        self.last = nn.Conv1d(CHANNELS, len(HEARD) + 1, 1)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        """Shape (batch, bands, frames) to (batch, sounds + 1, frames)."""
        x = torch.relu(self.norm(self.first(x)))
        for block in self.blocks:
            x = block(x)
        out: torch.Tensor = self.last(x)
        return out


@dataclass(frozen=True)
class Material:
    """Concatenated spectra of many sentences, with the sound of each frame and how near it is to an edge."""

    bands: NDArray[np.float16]
    heard: NDArray[np.uint8]
    edges: NDArray[np.uint8]
    starts: NDArray[np.int64]

    @classmethod
    def load(cls, files: list[Path]) -> "Material":
        """Join the files that `make` wrote."""
        parts = [np.load(file) for file in files]
        lengths = np.concatenate([p["lengths"] for p in parts])
        return cls(
            np.concatenate([p["bands"] for p in parts]),
            np.concatenate([p["heard"] for p in parts]),
            np.concatenate([p["edges"] for p in parts]),
            np.concatenate([[0], np.cumsum(lengths)]),
        )

    def batches(self, pick: np.random.Generator) -> Iterator[tuple[torch.Tensor, torch.Tensor, torch.Tensor]]:
        """Crops at random places, warped a little along the bands, small stretches of time and bands struck out."""
        total = len(self.heard) - _CROP
        while True:
            at = pick.integers(0, total, _BATCH)
            bands = np.stack([self.bands[a : a + _CROP] for a in at]).astype(np.float32)
            heard = np.stack([self.heard[a : a + _CROP] for a in at]).astype(np.int64)
            edges = np.stack([self.edges[a : a + _CROP] for a in at]).astype(np.float32) / 255
            for one in bands:
                if pick.random() < 0.5:
                    _warp(one, pick.normal(0, 2.0))
                if pick.random() < 0.3:
                    first = pick.integers(0, BANDS - 8)
                    one[:, first : first + pick.integers(2, 9)] = one[:, first, None]
                if pick.random() < 0.2:
                    first = pick.integers(0, _CROP - 12)
                    one[first : first + pick.integers(2, 7)] = pick.normal(0, 0.5)
            yield (
                torch.from_numpy(np.ascontiguousarray(bands.transpose(0, 2, 1))),
                torch.from_numpy(heard),
                torch.from_numpy(edges),
            )


def _warp(bands: NDArray[np.float32], by: float) -> None:
    """Move a spectrum along the mel scale, in place: a longer or shorter vocal tract."""
    source = np.clip(np.arange(BANDS) + by * np.sin(np.linspace(0, np.pi * 0.8, BANDS)), 0, BANDS - 1.001)
    low = source.astype(int)
    part = (source - low).astype(np.float32)
    bands[:] = bands[:, low] * (1 - part) + bands[:, low + 1] * part


def begun_with(weights: Mapping[str, NDArray[Any]], material: Material, pick: np.random.Generator) -> TrainedNetwork:
    """A network that gives what these weights give, as far as it is as large.

    Norms are set from the material, layer by layer, so that nothing changes at first (as in data-dependent
    initialisation: Salimans and Kingma 2016).
    """
    network = TrainedNetwork()
    bands, *_ = next(material.batches(pick))
    with torch.no_grad():
        x = bands
        layers = [(network.first, network.norm), *((b.conv, b.norm) for b in network.blocks)]
        for number, (conv, norm) in enumerate(layers):
            kernel = torch.from_numpy(weights[f"kernel_{number}"].astype(np.float32)).permute(2, 1, 0)
            bias = torch.from_numpy(weights[f"bias_{number}"].astype(np.float32))
            conv.weight.copy_(kernel)
            out = conv(x)
            norm.weight.copy_(torch.sqrt(out.var((0, 2)) + norm.eps))
            norm.bias.copy_(bias + out.mean((0, 2)))
            own = torch.relu(out + bias[None, :, None])
            x = x + own if number else own
        network.last.weight.copy_(torch.from_numpy(weights["last_kernel"].astype(np.float32)).T[:, :, None])
        network.last.bias.copy_(torch.from_numpy(weights["last_bias"].astype(np.float32)))
    return network


def train(
    files: list[Path], *, minutes: float, seed: int = 5, start: Mapping[str, NDArray[Any]] | None = None
) -> TrainedNetwork:
    """A network trained for so many minutes, from given weights on or from nothing; prints how it does."""
    torch.manual_seed(seed)
    pick = np.random.default_rng(seed)
    material = Material.load(files)
    network = begun_with(start, material, pick) if start else TrainedNetwork()
    print(
        f"{sum(p.numel() for p in network.parameters()):,} weights, {len(material.heard) / 360_000:.1f} h", flush=True
    )
    highest = _RATE_ON if start else _RATE
    best = torch.optim.AdamW(network.parameters(), lr=highest, weight_decay=1e-3)
    averaged = torch.optim.swa_utils.AveragedModel(
        network, multi_avg_fn=torch.optim.swa_utils.get_ema_multi_avg_fn(0.999)
    )
    began, losses = time.monotonic(), []
    for step, (bands, heard, edges) in enumerate(material.batches(pick), 1):
        share = (time.monotonic() - began) / (minutes * 60)
        if share >= 1:
            break
        rate = highest * min(1.0, step / 300) * 0.5 * (1 + np.cos(np.pi * share))
        for group in best.param_groups:
            group["lr"] = max(rate, 1e-5)
        out = network(bands)
        loss = nn.functional.cross_entropy(out[:, :-1], heard, label_smoothing=_SMOOTHING)
        loss = loss + 0.5 * nn.functional.binary_cross_entropy_with_logits(out[:, -1], edges)
        best.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(network.parameters(), 1.0)
        best.step()
        averaged.update_parameters(network)
        losses.append(float(loss))
        if step % 200 == 0:
            right = float((out[:, :-1].argmax(1) == heard).float().mean())
            print(f"{share:5.1%} step {step} loss {np.mean(losses[-200:]):.3f} right {right:.3f}", flush=True)
    trained: TrainedNetwork = averaged.module
    _settle_norms(trained, material, pick)
    return trained


def _settle_norms(network: TrainedNetwork, material: Material, pick: np.random.Generator) -> None:
    """Means and spreads for the averaged weights."""
    for module in network.modules():
        if isinstance(module, nn.BatchNorm1d):
            module.reset_running_stats()
            module.momentum = None
    network.train()
    with torch.no_grad():
        for _, (bands, *_) in zip(range(150), material.batches(pick), strict=False):
            network(bands)
    network.eval()


def weights(network: TrainedNetwork) -> dict[str, NDArray[np.float16]]:
    """What the application needs, norms worked into the convolutions: kernels (taps, in, out) and biases by layer."""
    out: dict[str, NDArray[np.float16]] = {}
    layers = [(network.first, network.norm), *((b.conv, b.norm) for b in network.blocks)]
    for number, (conv, norm) in enumerate(layers):
        scale = (norm.weight / torch.sqrt(norm.running_var + norm.eps)).detach()
        kernel = (conv.weight.detach() * scale[:, None, None]).permute(2, 1, 0)
        bias = (norm.bias - norm.running_mean * scale).detach()
        out[f"kernel_{number}"] = kernel.numpy().astype(np.float16)
        out[f"bias_{number}"] = bias.numpy().astype(np.float16)
    out["last_kernel"] = network.last.weight.detach()[:, :, 0].T.numpy().astype(np.float16)
    out["last_bias"] = network.last.bias.detach().numpy().astype(np.float16)
    out["dilations"] = np.array(DILATIONS, dtype=np.float16)
    return out
