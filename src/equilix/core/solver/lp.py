"""A small dense linear programme, solved by the simplex method with a warm start.

For problems of a few dozen rows that are solved on every mouse move: a general solver's set-up
costs more than the whole answer. Bigger ones go to SciPy.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

_TOLERANCE = 1e-10
#: A pivot smaller than this would blow rounding up to the size of the answer.
_PIVOT = 1e-6
#: Greatest residual of an answer that counts as one, over the right-hand side.
_EXACT = 1e-11
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
    basis : the m columns of an earlier solution. If they fit and are still feasible the search starts there.

    Notes
    -----
    Two-phase tableau simplex, Dantzig's rule, then Bland's once it stalls, so that it always ends:
    Chvatal, Linear Programming (1983), chapters 2, 3 and 8.
    """
    m, n = matrix.shape
    if basis is not None and len(basis) == m and max(basis, default=0) < n:
        warm = _warm_tableau(cost, matrix, rhs, basis)
        if warm is not None:
            return _finish(cost, matrix, rhs, warm, list(basis), n)
    sign = np.where(rhs < 0.0, -1.0, 1.0)
    tableau = np.zeros((m + 1, n + m + 1))
    tableau[:m, :n] = matrix * sign[:, None]
    tableau[:m, n : n + m] = np.eye(m)
    tableau[:m, -1] = rhs * sign
    columns = list(range(n, n + m))
    # A row whose slack is 1 needs no artificial column to start from.
    for column in np.flatnonzero(((matrix != 0.0).sum(axis=0) == 1) & (cost == 0.0)).tolist():
        row = int(np.abs(matrix[:, column]).argmax())
        if columns[row] >= n and tableau[row, column] == 1.0:
            columns[row] = column
    artificial = [row for row in range(m) if columns[row] >= n]
    tableau[m, :n] = -tableau[artificial, :n].sum(axis=0)
    tableau[m, -1] = -tableau[artificial, -1].sum()
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


def solve_surely(cost: np.ndarray, matrix: np.ndarray, rhs: np.ndarray, basis: tuple[int, ...] | None) -> LpSolution:
    """Solve as `solve_lp` does, and ask SciPy's HiGHS if that finds no exact answer.

    Nearly equal columns can defeat a plain simplex. The import takes a second, but only then.
    """
    found = solve_lp(cost, matrix, rhs, basis)
    if found.status is LpStatus.OPTIMAL:
        return found
    from scipy.optimize import linprog

    answer = linprog(cost, A_eq=matrix, b_eq=rhs, bounds=(0.0, None), method="highs-ds")
    if answer.status != 0:
        return (
            found if found.status is not LpStatus.STALLED else LpSolution(LpStatus.INFEASIBLE, found.x, found.cost, ())
        )
    return LpSolution(LpStatus.OPTIMAL, _put_right(matrix, rhs, np.maximum(answer.x, 0.0)), float(answer.fun), ())


def _put_right(matrix: np.ndarray, rhs: np.ndarray, x: np.ndarray) -> np.ndarray:
    """Return `x` with the least change that makes the equations exact; zeros may leave zero by rounding."""
    for _ in range(3):
        x = x + np.linalg.lstsq(matrix, rhs - matrix @ x, rcond=1e-12)[0]
    return x


def _finish(
    cost: np.ndarray, matrix: np.ndarray, rhs: np.ndarray, tableau: np.ndarray, columns: list[int], n: int
) -> LpSolution:
    status = _iterate(tableau, columns, n)
    x = np.zeros(n)
    if status is LpStatus.OPTIMAL:
        x[columns] = np.maximum(_basic_values(matrix[:, columns], rhs, tableau[: len(columns), -1]), 0.0)
        # No answer can be more exact than rounding in the terms of its own sums.
        allowed = _EXACT * np.maximum(1.0, np.abs(rhs)) + 1e-14 * (np.abs(matrix) @ x)
        if (np.abs(matrix @ x - rhs) > allowed).any():
            status = LpStatus.STALLED
    return LpSolution(status, x, float(cost @ x), tuple(columns))


def _basic_values(basis: np.ndarray, rhs: np.ndarray, pivoted: np.ndarray) -> np.ndarray:
    """Return the basis solved afresh, which leaves no rounding from the pivots in the answer.

    Where two columns are all but the same the fresh solution is worse: then what the pivots gave, put
    right by one step of least squares, is kept.
    """
    try:
        fresh = np.linalg.solve(basis, rhs)
        rest = rhs - basis @ fresh
        if np.abs(rest).max(initial=0.0) > 1e-13:
            fresh = fresh + np.linalg.solve(basis, rest)
    except np.linalg.LinAlgError:
        fresh = pivoted
    if np.isfinite(fresh).all() and (fresh >= -_NOISE).all() and np.abs(basis @ fresh - rhs).max(initial=0.0) < 1e-11:
        return fresh
    correction: np.ndarray = np.linalg.lstsq(basis, rhs - basis @ pivoted, rcond=1e-12)[0]
    return pivoted + correction


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
        rows = np.flatnonzero(column > _PIVOT)
        if rows.size == 0:
            if reduced[entering] < -_NOISE:
                return LpStatus.UNBOUNDED
            # Rounding alone makes it look worth entering.
            tableau[m, entering] = 0.0
            continue
        ratios = tableau[rows, -1] / column[rows]
        ties = rows[ratios <= ratios.min() + 1e-13]
        # The largest pivot keeps rounding small; the lowest number, once it stalls, keeps it from cycling.
        leaving = int(min(ties, key=columns.__getitem__) if stalled >= 30 else ties[column[ties].argmax()])
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
