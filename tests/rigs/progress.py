"""Listening to work that tells how far it is."""

from __future__ import annotations

import math
from collections.abc import Callable


def kept(shares: list[float], most: float = math.inf) -> Callable[[float], bool]:
    """Return what keeps every share that it is told, and stops the work once there are `most`."""

    def go_on(share: float) -> bool:
        shares.append(share)
        return len(shares) < most

    return go_on
