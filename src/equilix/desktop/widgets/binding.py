"""What the Qt binding does with every module that is imported after it, left out where that can be."""

from __future__ import annotations

import sys

import PySide6.QtCore  # noqa: F401, what is changed here comes with it

# The binding reads the source of each module for its own name, to know whether optional spellings of Qt's names could
# be wanted there. Nobody wants them here, and reading a hundred files takes a twentieth of a start. All are taken for
# modules that use it, as it takes ours anyway.
_feature = sys.modules.get("shibokensupport.feature")
if hasattr(_feature, "_mod_uses_pyside"):
    _feature._mod_uses_pyside = lambda _module: True  # type: ignore[union-attr]
