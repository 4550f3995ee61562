"""What both trainings share: the schedule, one step of the optimiser, and the moving average that is kept."""

from __future__ import annotations

import contextlib
import time
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import numpy as np
import torch
from torch import nn

PEAK_RATE, WARM_UP = 3e-3, 100


Song = TypeVar("Song")


def gather(folders: list[Path], known: dict[Path, Song], read: Callable[[Path], Song]) -> list[Song]:
    """All songs of the folders; those made since the last time are read, and files still being written left for the next."""
    for path in (p for folder in folders for p in sorted(folder.glob("*.npz"))):
        if path not in known:
            with contextlib.suppress(EOFError, ValueError, OSError, zipfile.BadZipFile):
                known[path] = read(path)
    return list(known.values())


class Learner:
    """Steps of a net with a cosine schedule over ``steps``."""

    def __init__(self, net: nn.Module, steps: int, peak: float = PEAK_RATE) -> None:
        self.net, self.steps, self.peak = net, steps, peak
        self.average = {k: v.clone() for k, v in net.state_dict().items()}
        self.optimiser = torch.optim.AdamW(net.parameters(), peak, weight_decay=0.01)
        self.begin, self.step, self.share = time.time(), 0, 0.0

    @property
    def seconds(self) -> float:
        return time.time() - self.begin

    @property
    def over(self) -> bool:
        return self.share >= 1

    def next_step(self) -> None:
        """Count a step and set its learning rate."""
        self.step += 1
        self.share = self.step / self.steps
        rate = self.peak * min(1, self.step / WARM_UP) * 0.5 * (1 + np.cos(np.pi * min(1, self.share)))
        for group in self.optimiser.param_groups:
            group["lr"] = rate

    def learn(self, loss: torch.Tensor) -> None:
        """One step down the gradient, and its share in the average."""
        self.optimiser.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(self.net.parameters(), 1.0)
        self.optimiser.step()
        keep = min(0.998, self.step / (self.step + 10))
        for k, v in self.net.state_dict().items():
            self.average[k].mul_(keep).add_(v, alpha=1 - keep)

    def averaged(self, net: nn.Module) -> nn.Module:
        """The average's weights in a fresh net."""
        net.load_state_dict(self.average)
        return net
