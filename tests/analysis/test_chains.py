"""Chains in which one stays or changes: against every path there is."""

from __future__ import annotations

from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from ychronos.analysis.chains import best_path, posterior

STATES, MOMENTS = 3, 5


def weights(shape: tuple[int, ...], least: float = 0.0) -> st.SearchStrategy[np.ndarray]:
    return arrays(float, shape, elements=st.floats(least, 6))


@given(weights((MOMENTS, STATES), -6), weights((MOMENTS,)), st.none() | weights((STATES, STATES)))
def test_the_best_path_and_the_chances_of_states_are_those_of_all_paths(
    score: np.ndarray, cost: np.ndarray, between: np.ndarray | None
) -> None:
    more = np.zeros((STATES, STATES)) if between is None else between
    paths = list(product(range(STATES), repeat=MOMENTS))

    def worth(path: tuple[int, ...], staying_twice: bool = False) -> float:
        total = sum(score[t, k] for t, k in enumerate(path))
        for t, (a, b) in enumerate(pairwise(path), 1):
            # in sums one may also leave a state for itself
            total += np.log(1 + np.exp(-cost[t] - more[a, a])) if a == b and staying_twice else 0.0
            total -= (cost[t] + more[a, b]) * (a != b)
        return float(total)

    best = best_path(score, cost, between)
    assert worth(tuple(best)) == pytest.approx(max(worth(p) for p in paths))
    chance = np.exp([worth(p, staying_twice=True) for p in paths])
    expected = np.array(
        [
            [sum(c for c, p in zip(chance, paths, strict=True) if p[t] == k) for k in range(STATES)]
            for t in range(MOMENTS)
        ]
    )
    assert posterior(score, cost, between=between) == pytest.approx(expected / chance.sum())
