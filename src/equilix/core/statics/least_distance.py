"""The shortest vector beyond given sides, for any of a family of loads; what no load within it can be is remembered."""

from __future__ import annotations

import numpy as np

from equilix.core.rounding import EXACT, ROUNDING, largest, negligible

#: Slack and multiplier below which a side counts as met: rounding.
MET = 1e-10
_MOST_STEPS = 400
#: What must be left of the last equation for its rounding not to count.
_SURE = 1e-4
#: How many times what lacks an answer may measure; one that must be longer is none.
_LONGEST = 1e6
#: Proofs kept that nothing holds a load.
_MOST_NEVER = 8
#: The sides last met, by the shape of the programme. It is where the search starts, never where it ends.
_LAST_MET: dict[tuple[int, ...], tuple[int, ...]] = {}


class LeastDistance:
    """Unknowns x with ``balance x = load l`` and ``sides x >= least l`` whose ``sums x + offset l`` are shortest.

    All are linear in a load l (4,); x is ``best l + per_u u`` with u the shortest with ``sides u >= least l``.
    """

    def __init__(
        self,
        balance: np.ndarray,
        load: np.ndarray,
        sums: np.ndarray,
        offset: np.ndarray,
        sides: np.ndarray,
        least: np.ndarray,
        shape: tuple[int, ...],
    ) -> None:
        """Take equilibrium out, and write what is left as the shortest vector u with ``sides @ u >= least``.

        Least distance programming: Lawson and Hanson, Solving Least Squares Problems (1974), ch. 23.
        """
        self._shape = shape
        # Rows (k, 4) and what they are exact to (k,): nothing can hold a load for which one is surely positive.
        self._never = (np.zeros((0, 4)), np.zeros(0))
        left, sizes, right = np.linalg.svd(balance)
        rank = int((sizes > ROUNDING * sizes[0]).sum())
        start = right[:rank].T @ ((left[:, :rank].T @ load) / sizes[:rank, None])
        self.unmet = load - balance @ start  # what no push can give
        free = right[rank:].T
        q, r = np.linalg.qr(sums @ free)
        self.per_u = np.linalg.solve(r.T, free.T).T
        self.best = start - self.per_u @ (q.T @ (sums @ start + offset))
        rows = sides @ self.per_u
        size = np.linalg.norm(rows, axis=1)
        size[size < ROUNDING] = 1.0
        self.sides = rows / size[:, None]
        self.least = (least - sides @ self.best) / size[:, None]
        self._most_lacking = float(np.linalg.norm(self.least, axis=1).max(initial=0.0))
        self.gram = self.sides @ self.sides.T

    def impossible(self, load: np.ndarray) -> np.ndarray:
        """Return for which of the loads (d, 4) it is known from others that nothing holds them."""
        never, by = self._never
        if not len(never):
            return np.zeros(len(load), dtype=bool)
        lacks = self._most_lacking * np.linalg.norm(load, axis=1)
        result: np.ndarray = (load @ never.T > _LONGEST * lacks[:, None] * by).any(axis=1)
        return result

    def met_sides(self, least: np.ndarray) -> tuple[int, ...] | None:
        """Return the sides that the shortest u with ``sides @ u >= least`` meets, None if there is no such u.

        Non-negative least squares on ``[sides.T; least.T] m = (0, ..., 0, 1)``: Lawson and Hanson, ch. 23.
        """
        scale = first = float(least.max(initial=0.0))
        if negligible(scale, MET):
            return ()
        # Begun from the sides that the last rig held in the same way met: they are nearly right, and save steps.
        met = _LAST_MET.get(self._shape, ())
        for _ in range(4):
            h = least / scale
            m, left = self._non_negative(h, met)
            met = tuple(int(k) for k in np.flatnonzero(m > 0.0))
            if not negligible(left, _SURE):
                break
            # Farkas' lemma: with pushes m whose sides all but cancel, ``u . (sides.T m) >= least . m`` is for no u that
            # is shorter than this. The same pushes say so of other loads.
            cancels = float(np.linalg.norm(m @ self.sides))
            if scale * float(m @ h) > _LONGEST * first * cancels:
                never, by = (kept[: _MOST_NEVER - 1] for kept in self._never)
                self._never = (np.vstack([m @ self.least, never]), np.concatenate([[cancels], by]))
                return None
            # 1/(1 + (u/scale)^2) is left of the last equation: a long u must be measured by a longer scale.
            scale *= 100.0
        if negligible(left):
            return None
        _LAST_MET[self._shape] = met
        return met

    def _non_negative(self, h: np.ndarray, met: tuple[int, ...]) -> tuple[np.ndarray, float]:
        """Return the multipliers (s,) of the sides and what is left of the last equation, begun from sides `met`."""
        gram = self.gram + np.outer(h, h)
        m = np.zeros(len(h))
        active = np.zeros(len(h), dtype=bool)
        which, begun = _begun(gram, h, met)
        m[which], active[which] = begun, True
        for _ in range(_MOST_STEPS):
            rise = h - gram @ m
            rise[active] = -np.inf
            k = int(rise.argmax())
            if rise[k] <= EXACT:
                break
            active[k] = True
            while True:
                which = np.flatnonzero(active)
                wanted = solve(gram[np.ix_(which, which)], h[which])
                back = wanted <= 0.0
                if not back.any():
                    m[:] = 0.0
                    m[which] = wanted
                    break
                now = m[which]
                step = float(np.min(now[back] / np.maximum(now[back] - wanted[back], 1e-300)))
                m[which] = np.maximum(now + step * (wanted - now), 0.0)
                gone = which[back & (m[which] <= 1e-14)]
                if not gone.size:
                    gone = which[[int(np.where(back, m[which], np.inf).argmin())]]
                m[gone] = 0.0
                active[gone] = False
                if not active.any():
                    break
            if not active[k] and not m.any():
                break
        return m, 1.0 - float(h @ m)


def _begun(gram: np.ndarray, h: np.ndarray, met: tuple[int, ...]) -> tuple[np.ndarray, np.ndarray]:
    """Return those of the sides `met` that push, and their multipliers: what a search may begin from."""
    which = np.array(met, dtype=int)
    wanted = np.zeros(0)
    while which.size:
        wanted = solve(gram[np.ix_(which, which)], h[which])
        pushes = wanted > 0.0
        if pushes.all():
            break
        which, wanted = which[pushes], wanted[pushes]
    return which, wanted


def none_below(values: np.ndarray) -> bool:
    """Whether no side is missed, but for rounding."""
    return float(values.min(initial=0.0)) >= -MET


def size_of(load: np.ndarray) -> float:
    """Return what rounding of a load is counted in."""
    return max(1.0, largest(load))


def solve(matrix: np.ndarray, right: np.ndarray) -> np.ndarray:
    try:
        return np.asarray(np.linalg.solve(matrix, right))
    except np.linalg.LinAlgError:
        return np.asarray(np.linalg.lstsq(matrix, right, rcond=EXACT)[0])
