"""What the program remembers between sessions: units, theme and recent files."""

from __future__ import annotations

import contextlib
from pathlib import Path

import msgspec
import platformdirs
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.errors import FormatError
from equilix.core.limits import MAX_NAME
from equilix.io.files import read_ordinary, write_whole

_RECENT = 8
UNITS = ("metric", "imperial")
THEMES = ("light", "dark")
#: N m.
MAX_TOLERANCE = 20.0


class Preferences(Struct, frozen=True):
    """Units and theme by name, and the files opened last, newest first.

    `place` is where the window stood and how large it was, as Qt tells it in base 64, `room` which one was open.
    """

    units: str = "metric"
    theme: str = "light"
    single_keys: bool = True
    recent: tuple[str, ...] = ()
    by: str = ""  # who weighs, for the records
    tolerance: float = 0.10  # N m of tip moment that counts as level
    place: str = ""
    room: str = ""

    def with_recent(self, path: Path) -> Preferences:
        """Return the preferences with `path` as the newest recent file."""
        name = str(path.absolute())
        if not name.isprintable():
            return self  # it could not be written down, or not be read in a menu
        return replace(self, recent=(name, *(old for old in self.recent if old != name))[:_RECENT])


def config_file() -> Path:
    """Return where the preferences are kept."""
    return Path(platformdirs.user_config_dir("equilix")) / "preferences.json"


def recovery_folder() -> Path:
    """Return where unsaved work is kept."""
    return Path(platformdirs.user_state_dir("equilix")) / "recovery"


def claims_folder() -> Path:
    """Return where it is noted which books are open in a window."""
    return Path(platformdirs.user_state_dir("equilix")) / "open"


def load_preferences() -> Preferences:
    """Return the stored preferences, or the usual ones if there are none that can be read."""
    try:
        data = read_ordinary(config_file(), 1_000_000)
        found = msgspec.json.decode(data, type=Preferences)
    except (FormatError, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return Preferences()
    usual = Preferences()
    # A word of another version, or of somebody's editor, must not stop the start.
    return replace(
        found,
        units=found.units if found.units in UNITS else usual.units,
        theme=found.theme if found.theme in THEMES else usual.theme,
        recent=tuple(name for name in found.recent if name.isprintable())[:_RECENT],
        by=found.by if len(found.by) <= MAX_NAME and found.by.isprintable() else usual.by,
        tolerance=found.tolerance if 0.0 < found.tolerance <= MAX_TOLERANCE else usual.tolerance,
    )


def store_preferences(preferences: Preferences) -> None:
    """Store `preferences`; a folder that can't be written only means that they aren't remembered."""
    with contextlib.suppress(OSError, FormatError, UnicodeEncodeError):
        config_file().parent.mkdir(parents=True, exist_ok=True)
        write_whole(msgspec.json.encode(preferences), config_file())
