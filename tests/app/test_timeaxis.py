"""Lines over time."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from ychronos.app.timeaxis import line_through


@given(st.integers(0, 5000), st.integers(1, 300), st.integers(0, 99))
def test_a_long_line_has_few_points_and_the_same_look(count: int, width: int, seed: int) -> None:
    rng = np.random.default_rng(seed)
    x, y = np.sort(rng.uniform(0, width, count)), rng.normal(0, 40, count)
    drawn = line_through(x, y)
    assert len(drawn) <= min(max(0, count - 1), 4 * width)
    if count > 1:
        points = [drawn[0].p1(), *(piece.p2() for piece in drawn)]
        assert [piece.p1() for piece in drawn] == points[:-1], "no gaps"
        xs, ys = (np.array([getattr(p, k)() for p in points]) for k in "xy")
        assert (xs[0], xs[-1], ys[0], ys[-1]) == (x[0], x[-1], y[0], y[-1]) and (np.diff(xs) >= 0).all()
        for column in np.unique(np.floor(x)):
            there, here = y[np.floor(x) == column], ys[np.floor(xs) == column]
            assert (there.min(), there.max()) == (here.min(), here.max())
