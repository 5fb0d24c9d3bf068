"""A small dense linear programme, solved by the simplex method with a warm start.

For problems of a few dozen rows that are solved on every mouse move: a general solver's set-up
costs more than the whole answer. Bigger ones go to SciPy.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

_TOLERANCE = 1e-10
#: A reduced cost this near to zero may be nothing but rounding.
_NOISE = 1e-7
_MAX_STEPS = 2000


class LpStatus(StrEnum):
    OPTIMAL = "optimal"
    INFEASIBLE = "infeasible"
    UNBOUNDED = "unbounded"
    STALLED = "stalled"


@dataclass(frozen=True, eq=False, slots=True)
class LpSolution:
    """`x` (n,) at the optimum, its `cost`, and the `basis` (m,) that starts the next, similar problem."""

    status: LpStatus
    x: np.ndarray
    cost: float
    basis: tuple[int, ...]


def solve_lp(cost: np.ndarray, matrix: np.ndarray, rhs: np.ndarray, basis: tuple[int, ...] | None = None) -> LpSolution:
    """Minimise ``cost @ x`` subject to ``matrix @ x = rhs`` and ``x >= 0``.

    Parameters
    ----------
    cost, matrix, rhs : (n,), (m, n), (m,); rows should be scaled to about one.
    basis : the m columns of an earlier solution. If they are still feasible the search starts there.

    Notes
    -----
    Two-phase tableau simplex, Dantzig's rule, then Bland's once it stalls, so that it always ends:
    Chvatal, Linear Programming (1983), chapters 2, 3 and 8.
    """
    m, n = matrix.shape
    if basis is not None and len(basis) == m:
        warm = _warm_tableau(cost, matrix, rhs, basis)
        if warm is not None:
            return _finish(cost, matrix, rhs, warm, list(basis), n)
    sign = np.where(rhs < 0.0, -1.0, 1.0)
    tableau = np.zeros((m + 1, n + m + 1))
    tableau[:m, :n] = matrix * sign[:, None]
    tableau[:m, n : n + m] = np.eye(m)
    tableau[:m, -1] = rhs * sign
    tableau[m, :n] = -tableau[:m, :n].sum(axis=0)
    tableau[m, -1] = -tableau[:m, -1].sum()
    columns = list(range(n, n + m))
    status = _iterate(tableau, columns, n)
    scale = max(1.0, float(np.abs(rhs).max(initial=0.0)))
    if status is not LpStatus.OPTIMAL or -tableau[m, -1] > 1e-8 * scale:
        failed = LpStatus.INFEASIBLE if status is LpStatus.OPTIMAL else status
        return LpSolution(failed, np.zeros(n), float("nan"), ())
    keep = _drive_out(tableau, columns, n)
    if len(keep) < m:
        tableau = tableau[[*keep, m]]
        columns = [columns[row] for row in keep]
        matrix, rhs = matrix[keep], rhs[keep]
        m = len(keep)
    tableau = np.delete(tableau, slice(n, tableau.shape[1] - 1), axis=1)
    tableau[m, :n] = cost
    tableau[m, -1] = 0.0
    for row, column in enumerate(columns):
        tableau[m] -= tableau[m, column] * tableau[row]
    return _finish(cost, matrix, rhs, tableau, columns, n)


def _finish(
    cost: np.ndarray, matrix: np.ndarray, rhs: np.ndarray, tableau: np.ndarray, columns: list[int], n: int
) -> LpSolution:
    status = _iterate(tableau, columns, n)
    x = np.zeros(n)
    if status is LpStatus.OPTIMAL:
        # Solving the basis afresh leaves no rounding from the pivots in the answer.
        x[columns] = np.maximum(np.linalg.solve(matrix[:, columns], rhs), 0.0)
    return LpSolution(status, x, float(cost @ x), tuple(columns))


def _warm_tableau(cost: np.ndarray, matrix: np.ndarray, rhs: np.ndarray, basis: tuple[int, ...]) -> np.ndarray | None:
    columns = list(basis)
    m, n = matrix.shape
    try:
        rows = np.linalg.solve(matrix[:, columns], np.column_stack([matrix, rhs]))
    except np.linalg.LinAlgError:
        return None
    if not np.isfinite(rows).all() or (rows[:, -1] < -1e-12).any():
        return None
    tableau = np.zeros((m + 1, n + 1))
    tableau[:m] = rows
    tableau[m, :n] = cost
    tableau[m] -= cost[columns] @ rows
    return tableau


def _iterate(tableau: np.ndarray, columns: list[int], n: int) -> LpStatus:
    m = len(columns)
    best, stalled = np.inf, 0
    for _ in range(_MAX_STEPS):
        reduced = tableau[m, :n]
        if stalled < 30:
            entering = int(reduced.argmin())
            if reduced[entering] >= -_TOLERANCE:
                return LpStatus.OPTIMAL
        else:
            candidates = np.flatnonzero(reduced < -_TOLERANCE)
            if candidates.size == 0:
                return LpStatus.OPTIMAL
            entering = int(candidates[0])
        column = tableau[:m, entering]
        rows = np.flatnonzero(column > _TOLERANCE)
        if rows.size == 0:
            if reduced[entering] < -_NOISE:
                return LpStatus.UNBOUNDED
            # Rounding alone makes it look worth entering.
            tableau[m, entering] = 0.0
            continue
        ratios = tableau[rows, -1] / column[rows]
        ties = rows[ratios <= ratios.min() + 1e-13]
        leaving = int(min(ties, key=columns.__getitem__))
        _pivot(tableau, leaving, entering)
        columns[leaving] = entering
        cost = -float(tableau[m, -1])
        stalled = stalled + 1 if cost >= best - 1e-14 else 0
        best = min(best, cost)
    return LpStatus.STALLED


def _pivot(tableau: np.ndarray, row: int, column: int) -> None:
    tableau[row] /= tableau[row, column]
    factors = tableau[:, column].copy()
    factors[row] = 0.0
    tableau -= factors[:, None] * tableau[row]


def _drive_out(tableau: np.ndarray, columns: list[int], n: int) -> list[int]:
    """Swap artificial columns out of the basis; return the rows to keep, without the redundant ones."""
    keep = []
    for row, column in enumerate(columns):
        if column >= n:
            choices = np.flatnonzero(np.abs(tableau[row, :n]) > 1e-9)
            if choices.size == 0:
                continue
            best = int(choices[np.abs(tableau[row, choices]).argmax()])
            _pivot(tableau, row, best)
            columns[row] = best
        keep.append(row)
    return keep
