"""Regressions by L-BFGS: a conditional logit, which of some candidates is right by a weighted sum of what speaks for each
(McFadden, 1974), and a logistic one, whether something is so."""

from __future__ import annotations

import numpy as np
from scipy.optimize import minimize


def conditional_logit(
    x: np.ndarray,
    right: np.ndarray,
    ridge: float,
    weight: np.ndarray | None = None,
    there: np.ndarray | None = None,
    held: np.ndarray | float = 0.0,
) -> tuple[np.ndarray, float]:
    """The weights (k,) of features ``x`` (cases, candidates, k) by L-BFGS, and the mean loss with its ridge.

    ``right`` (cases,) is which candidate is right, ``weight`` (cases,) how much each case counts, all the same by default;
    ``there`` (cases, candidates) which candidates a case has, all by default; ``held`` (cases, candidates) is what speaks for each besides,
    with a weight of one.
    """
    at = np.arange(len(right))
    share = np.full(len(right), 1 / len(right)) if weight is None else weight / weight.sum()

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        z = x @ w + held
        z = z if there is None else np.where(there, z, -1e9)
        p = np.exp(z - z.max(1, keepdims=True))
        p /= p.sum(1, keepdims=True)
        value = -(share * np.log(p[at, right] + 1e-12)).sum() + ridge / 2 * (w**2).sum()
        p[at, right] -= 1
        return float(value), np.einsum("nm,nmk->k", p * share[:, None], x) + ridge * w

    found = minimize(loss, np.zeros(x.shape[2]), jac=True, method="L-BFGS-B", options={"maxiter": 500})
    return np.asarray(found.x), float(found.fun)


def logistic(x: np.ndarray, y: np.ndarray, ridge: float) -> np.ndarray:
    """Weights of the columns of x, the last being the constant, which is not held down; ``ridge`` against the sum of losses."""
    sign = 2.0 * y - 1
    held = np.append(np.full(x.shape[1] - 1, ridge), 0.0)

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        value = x @ w
        wrong = 1 / (1 + np.exp(-value)) - y
        return float(np.logaddexp(0, -value * sign).sum() + (held * w**2).sum() / 2), x.T @ wrong + held * w

    return minimize(loss, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B").x
