"""Seeks the ways to balance in another thread; keeps them while nothing they rest on changes; drops late answers."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from equilix.core.analysis import Analysis
from equilix.core.kit.parts import Part
from equilix.desktop.jobs.job import Latest, Progress
from equilix.desktop.workspace import Workspace

if TYPE_CHECKING:
    from equilix.core.solver.sensitivity import Influence
    from equilix.present.balance.ways import Way

#: ms without a change after which ways are sought.
SETTLED = 60
#: What is left of a rig that is balanced as far as anybody knows, and that nothing would bring nearer.
_WITHIN = "What remains is smaller than its ±. Weigh the parts again first."


class WaysFinder(QObject):
    """`changed` follows new ways, also the first sign that they are sought."""

    changed = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.ways: tuple[Way, ...] = ()
        #: Whether somebody looks at the ways that are shown, so that none may jump.
        self.holds: Callable[[], bool] = lambda: False
        self.note = ""
        self.influence = ""
        self.analysis: Analysis | None = None
        self._kit: dict[str, Part] | None = None
        self._key: object = None
        self._strategies: tuple[object, ...] = ()
        self._work = Latest(self, delay=SETTLED)
        self._work.done.connect(self._done)
        # Ways come one by one, each shown as soon as it is there.
        self._work.told.connect(self._some)
        self._influences: tuple[Influence, ...] = ()
        self._words_key: object = None

    @property
    def busy(self) -> bool:
        """Whether ways are being sought."""
        return self._work.busy

    @property
    def possible(self) -> bool:
        """Whether there is a rig on a pad for which ways can be sought."""
        return self.analysis is not None and self.analysis.equilibrium is not None

    def clear(self) -> None:
        """Forget everything: there is no build."""
        self.stop()
        self.analysis, self._key, self.ways, self.note, self.influence = None, None, (), "", ""

    def seek(self, analysis: Analysis) -> None:
        """Begin to seek the ways for `analysis`, unless they are known or being sought already."""
        w = self.workspace
        tolerance = w.preferences.tolerance
        key = (id(analysis), id(w.book.parts), id(w.operator), tolerance)
        self.analysis = analysis
        if key == self._key:
            self._say()
            return
        self.stop()
        self._key, self._kit = key, w.book.parts
        self.ways, self.note, self.influence, self._strategies = (), "", "", ()
        if not self.possible:
            return
        kit, operator = w.book.parts, w.operator

        def work(progress: Progress, tell: Callable[[object], None]) -> object:
            from equilix.core.solver.sensitivity import influences
            from equilix.core.solver.strategies import find_strategies

            found = find_strategies(analysis, kit, operator, tolerance, lambda: progress(0.5), tell)
            return found, influences(analysis)

        self._work.start_telling(work)

    def stop(self) -> None:
        """Stop seeking; what is known stays."""
        if self._work.stop():
            self._key = None

    def give_up(self) -> None:
        """Stop seeking because the user said so; the same build is not sought again until something changes."""
        key = self._key
        self.stop()
        self._key, self.note = key, "Stopped. Any change starts a new search."
        self._words_key = (key, self.workspace.system)
        self.changed.emit()

    def _some(self, found: object) -> None:
        """Show what has been found so far."""
        if not self.busy or not isinstance(found, tuple):
            return
        self._strategies, self._words_key = found, None
        self._say(so_far=True)
        self.changed.emit()

    def _done(self, found: object) -> None:
        if not isinstance(found, tuple):
            return
        self._strategies, self._influences = found
        self._words_key = None
        self._say()
        self.changed.emit()

    def _say(self, so_far: bool = False) -> None:
        """Put what was found in words, in the units in force; `so_far` while more is sought."""
        if (self.busy and not so_far) or self.analysis is None or self._kit is None:
            return
        system = self.workspace.system
        if (self._key, system) == self._words_key:
            return
        from equilix.core.kit.uncertainty import COVERAGE
        from equilix.core.solver.strategies import Strategy
        from equilix.core.solver.targets import is_level, target_of
        from equilix.present.balance.ways import influence_words, ways_of
        from equilix.present.supports import text_of

        found = tuple(s for s in self._strategies if isinstance(s, Strategy))
        ways = ways_of(found, self.analysis, system)
        if self.ways and self.holds():
            # What somebody looks at stays where it is: what comes later follows below.
            places = {way.kind: place for place, way in enumerate(self.ways)}
            ways = tuple(sorted(ways, key=lambda way: places.get(way.kind, len(places))))
        self.ways = ways
        if so_far:
            return
        analysis, tolerance = self.analysis, self.workspace.preferences.tolerance

        def within(moment: float) -> bool:
            target = target_of(analysis, moment)
            return target is not None and is_level(analysis, target)

        level = within(tolerance)
        self.note = "It counts as level. No way is needed." if level else ""
        if not level and not found:
            unsure = COVERAGE * analysis.equilibrium.tip_uncertainty if analysis.equilibrium is not None else 0.0
            self.note = _WITHIN if within(max(unsure, tolerance)) else text_of(analysis).stuck
        self.influence = influence_words(self._influences, self.analysis, system) if not level else ""
        self._words_key = (self._key, system)
