"""Training the network that moves edges to where one sound becomes the next."""

from typing import Any

import numpy as np
import torch
from numpy.typing import NDArray
from torch import nn

from tinfork.core.ear.edges import BANDS, FURTHEST, REACH
from tinfork.core.ear.phones import HEARD
from tools.ear.edges import EdgeRows

_WIDTH, _DROPPED, _BATCH, _EPOCHS, _RATE = 64, 0.3, 64, 30, 4e-3


class TrainedEdges(nn.Module):
    """What is seen around an edge, the two sounds that meet and their lengths, to how far it is off (steps of 5 ms)."""

    def __init__(self) -> None:
        super().__init__()
        self.seen, self.lengths = nn.Linear((2 * REACH + 1) * BANDS, _WIDTH, bias=False), nn.Linear(2, _WIDTH)
        self.before, self.after = nn.Embedding(len(HEARD), _WIDTH), nn.Embedding(len(HEARD), _WIDTH)
        self.hidden, self.last = nn.Linear(_WIDTH, _WIDTH), nn.Linear(_WIDTH, 1)
        self.dropped = nn.Dropout(_DROPPED)
        for table in (self.before, self.after):
            nn.init.normal_(table.weight, std=0.1)

    def forward(
        self, windows: torch.Tensor, lengths: torch.Tensor, before: torch.Tensor, after: torch.Tensor
    ) -> torch.Tensor:
        """Shapes (edges, 17 * 24), (edges, 2), (edges,), (edges,) to (edges,)."""
        x = self.seen(self.dropped(windows)) + self.lengths(lengths)
        x = torch.relu(x + self.before(before) + self.after(after))
        x = torch.relu(self.hidden(self.dropped(x)))
        out: torch.Tensor = FURTHEST * torch.tanh(self.last(x)[:, 0] / FURTHEST)
        return out


def train(rows: EdgeRows, seed: int = 5) -> TrainedEdges:
    """A network for which the mean distance to the true edges is least."""
    torch.manual_seed(seed)
    network = TrainedEdges()
    best = torch.optim.AdamW(network.parameters(), lr=_RATE, weight_decay=1e-3)
    each = len(rows.off) // _BATCH + 1
    rates = torch.optim.lr_scheduler.OneCycleLR(best, _RATE, total_steps=_EPOCHS * each)
    given = (rows.lengths, rows.before, rows.after, rows.off)
    lengths, before, after, off = (torch.from_numpy(part) for part in given)
    for epoch in range(_EPOCHS):
        losses = []
        for some in torch.randperm(len(rows.off)).split(_BATCH):
            windows = torch.from_numpy(rows.windows[some.numpy()].astype(np.float32))
            out = network(windows + 0.1 * torch.randn_like(windows), lengths[some], before[some], after[some])
            loss = (out - off[some]).abs().mean()
            best.zero_grad()
            loss.backward()
            best.step()
            rates.step()
            losses.append(float(loss.detach()))
        if epoch % 5 == 4:
            print(f"epoch {epoch + 1}: {5 * np.mean(losses):.2f} ms", flush=True)
    network.eval()
    return network


def weights(network: TrainedEdges) -> dict[str, NDArray[Any]]:
    """What the application needs, by name."""
    parts = {
        "seen": network.seen.weight.T,
        "lengths": network.lengths.weight.T,
        "bias": network.lengths.bias,
        "before": network.before.weight,
        "after": network.after.weight,
        "hidden": network.hidden.weight.T,
        "hidden_bias": network.hidden.bias,
        "last": network.last.weight[0],
        "last_bias": network.last.bias,
    }
    return {name: part.detach().numpy().astype(np.float16) for name, part in parts.items()}
