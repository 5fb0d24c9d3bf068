"""Who carries the rigs."""

from __future__ import annotations

from equilix.core.assembly.build import Operator, Sex, Side

MAN = Operator("m", "M", 1.80, 80.0, sex=Sex.MALE)
WOMAN = Operator("w", "W", 1.64, 60.0, sex=Sex.FEMALE)
LEFT_HANDED = Operator("w", "W", 1.65, 60.0, sex=Sex.FEMALE, shoulder=Side.LEFT)
#: Of no known sex.
PERSON = Operator("m", "M", 1.78, 79.0)
