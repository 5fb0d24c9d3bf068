"""When a reading may be taken: the scale has stayed within one step of itself for long enough.

Times are seconds on any clock that only goes forward; the caller brings them, so nothing here waits.
"""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.rounding import ROUNDING
from equilix.core.sources import common_practice

#: s that the readings must stay within the band.
STEADY_TIME = common_practice(2.1)
#: s of readings that are kept to show.
TRACE_TIME = 8.0


class Sample(Struct, frozen=True):
    """One reading: `time` (s) and `value` (kg)."""

    time: float
    value: float


class Trace(Struct, frozen=True):
    """The last readings of a scale whose `band` (kg) is one step each way."""

    band: float
    samples: tuple[Sample, ...] = ()

    def with_sample(self, sample: Sample) -> Trace:
        """Return the trace with one more reading, without those that are too old to matter.

        A reading that comes from before the last one starts the trace anew: the clock was set, or the
        scale is another.
        """
        if self.samples and sample.time < self.samples[-1].time:
            return replace(self, samples=(sample,))
        oldest = sample.time - TRACE_TIME
        return replace(self, samples=(*(s for s in self.samples if s.time >= oldest), sample))

    @property
    def last(self) -> Sample | None:
        """The newest reading."""
        return self.samples[-1] if self.samples else None

    @property
    def steady_for(self) -> float:
        """How long (s) all readings up to the newest have lain within one step of their middle."""
        if not self.samples:
            return 0.0
        low = high = self.samples[-1].value
        since = self.samples[-1].time
        for sample in reversed(self.samples):
            low, high = min(low, sample.value), max(high, sample.value)
            if high - low > 2.0 * self.band * (1.0 + ROUNDING):
                break
            since = sample.time
        return self.samples[-1].time - since

    @property
    def steady(self) -> bool:
        """Whether the reading may be taken."""
        return self.steady_for >= STEADY_TIME

    @property
    def value(self) -> float | None:
        """Mean (kg) of the readings in the steady time, None without any."""
        if not self.samples:
            return None
        since = self.samples[-1].time - min(self.steady_for, STEADY_TIME)
        inside = [s.value for s in self.samples if s.time >= since]
        # No scale tells milligrams; what is finer is rounding of the mean.
        return round(sum(inside) / len(inside), 6)


def trace_of(band: float, samples: Iterable[Sample]) -> Trace:
    """Return the trace that `samples` leave behind."""
    trace = Trace(band)
    for sample in samples:
        trace = trace.with_sample(sample)
    return trace
