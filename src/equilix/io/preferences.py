"""What the program remembers between sessions: units, theme and recent files."""

from __future__ import annotations

import contextlib
from dataclasses import dataclass, replace
from pathlib import Path

import msgspec
import platformdirs

_RECENT = 8


@dataclass(frozen=True)
class Preferences:
    """Units and theme by name, and the files opened last, newest first."""

    units: str = "metric"
    theme: str = "light"
    single_keys: bool = True
    recent: tuple[str, ...] = ()
    by: str = ""  # who weighs, for the records
    tolerance: float = 0.10  # N m of tip moment that counts as level

    def with_recent(self, path: Path) -> Preferences:
        """Return the preferences with `path` as the newest recent file."""
        name = str(path.resolve())
        return replace(self, recent=(name, *(old for old in self.recent if old != name))[:_RECENT])


def config_file() -> Path:
    """Return where the preferences are kept."""
    return Path(platformdirs.user_config_dir("equilix")) / "preferences.json"


def recovery_folder() -> Path:
    """Return where unsaved work is kept."""
    return Path(platformdirs.user_state_dir("equilix")) / "recovery"


def load_preferences() -> Preferences:
    """Return the stored preferences, or the usual ones if there are none that can be read."""
    with contextlib.suppress(OSError, msgspec.DecodeError):
        return msgspec.json.decode(config_file().read_bytes(), type=Preferences)
    return Preferences()


def store_preferences(preferences: Preferences) -> None:
    """Store `preferences`; a folder that can't be written only means that they aren't remembered."""
    with contextlib.suppress(OSError):
        config_file().parent.mkdir(parents=True, exist_ok=True)
        config_file().write_bytes(msgspec.json.encode(preferences))
